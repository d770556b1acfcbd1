import { watchSite } from '../../../links/links'
import { openSite } from '../../../store/sites'

export default defineEventHandler(async (event) => {
  const id = param(event, 'site')
  const site = await openSite(id)
  if (!site) throw notFound('site.noSuch')
  watchSite(id)
  return site
})
