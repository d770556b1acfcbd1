import { ConfirmBody } from '../../../../../../core/contract'
import { contentOf } from '../../../../../../core/documents'
import { atThisMachine } from '../../../../../access/here'
import { asker } from '../../../../../access/sessions'
import { confirmAddress } from '../../../../../links/addresses'
import { lookAtDevices } from '../../../../../links/links'
import { writeLog } from '../../../../../store/log'
import { message } from '../../../../../../core/words'

/** A person says that Kovrin may connect to the address at which a device is said to be. */
export default defineEventHandler(async (event) => {
  atThisMachine(event, 'An address is confirmed')
  const { address } = await readChecked(event, ConfirmBody)
  const { site, device, documents } = await deviceAsked(event)
  const record = contentOf(documents, 'device', device)!
  if (record.address !== address)
    throw refused(409, message('address.moved', { device: record.name, now: record.address, address }))
  const { who } = await asker(event)
  try {
    await confirmAddress(address, who)
  }
  catch (error) { throw asRefused(error) }
  await writeLog(site, who, message('log.device.confirmed', { address, device: record.name }))
  await lookAtDevices()
  return {}
})
