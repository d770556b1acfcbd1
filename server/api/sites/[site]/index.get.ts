import { loadSite } from '../../../db/sites'
import { linkState } from '../../../links/links'

export default defineEventHandler(async (event) => {
  const id = param(event, 'site')
  const site = await loadSite(id)
  if (!site) throw notFound(`site “${id}”`)
  return { ...site, links: Object.fromEntries(site.devices.map(d => [d.id, linkState(id, d.id)])) }
})
