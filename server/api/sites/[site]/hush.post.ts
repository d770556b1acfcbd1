import { hushSite } from '../../../live/pages'
import { openSite } from '../../../store/sites'

/** Ends every test signal of every page of the site at once. */
export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  if (!await openSite(site)) throw notFound('site.noSuch')
  hushSite(site)
  return {}
})
