import { SearchBody } from '../../../core/contract'
import { addressesIn } from '../../../core/rig'
import { atThisMachine } from '../../access/here'
import { searchDevices } from '../../links/searching'

/** Looks for devices on the network, or at the addresses that a person at this machine names. */
export default defineEventHandler(async (event) => {
  atThisMachine(event, 'Devices are searched for')
  const { range } = await readChecked(event, SearchBody)
  try {
    return { found: await searchDevices(range === null ? null : addressesIn(range)) }
  }
  catch (error) { throw asRefused(error) }
})
