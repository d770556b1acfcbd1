import { RestoreQuery } from '../../core/contract'
import { laidDown } from '../jobs/backups'
import { endThose } from '../leases/leases'
import { lookAtDevices, watchSite } from '../links/links'
import { renewSite } from '../store/actor'
import { restoreArchive } from '../store/restore'

/** Puts back what an archive holds: all of it, or nothing. */
export default defineEventHandler(async (event) => {
  const { replace } = checked(RestoreQuery, getQuery(event), 'the query')
  try {
    const { temporary, ...answer } = await laidDown(incoming(event), file => restoreArchive(file, replace === 'true'))
    for (const site of answer.restored) {
      await renewSite(site)
      watchSite(site)
    }
    for (const stood of temporary) await endThose(stood)
    await lookAtDevices()
    return answer
  }
  catch (error) { throw asRefused(error) }
})
