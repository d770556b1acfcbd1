import { allOf } from '../../../../core/documents'
import { unsentOf } from '../../../links/send'
import { actorOf } from '../../../store/actor'
import { draftAuthors } from '../../../store/history'
import { openSite } from '../../../store/sites'

/** Who wrote each unsent value last. */
export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  if (!await openSite(site)) throw notFound('site.noSuch')
  const mirror = await actorOf(site).read()
  if (!mirror) throw notFound('site.noSuch')
  const { documents } = mirror
  return await draftAuthors(site, unsentOf(documents, allOf(documents, 'device').map(d => d.id)))
})
