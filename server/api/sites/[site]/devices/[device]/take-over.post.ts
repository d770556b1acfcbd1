import { contentOf } from '../../../../../../core/documents'
import { takeClaim } from '../../../../../links/claims'
import { claimsOf, lookAtDevices } from '../../../../../links/links'
import { actorOf } from '../../../../../store/actor'
import { writeLog } from '../../../../../store/log'
import { asker } from '../../../../../access/sessions'
import { message } from '../../../../../../core/words'

/** Lets this site drive the device from now on, and no other. */
export default defineEventHandler(async (event) => {
  const { site, device, documents } = await deviceAsked(event)
  const { address, name } = contentOf(documents, 'device', device)!
  const had = address ? await takeClaim(await claimsOf(address), site, device) : null
  const other = had && await actorOf(had).read()
  const from = other ? contentOf(other.documents, 'site')?.name ?? had : null
  if (from !== null) {
    const told = message('log.device.controlled', { device: name, site: from })
    await writeLog(site, (await asker(event)).who, told)
  }
  await lookAtDevices()
  return { from }
})
