import { temporaryOf } from '../../../../leases/leases'
import { openSite } from '../../../../store/sites'

/** What stands in devices only for a while. */
export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  if (!await openSite(site)) throw notFound('site.noSuch')
  return await temporaryOf(site)
})
