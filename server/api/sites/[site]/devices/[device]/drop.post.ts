import { dropDraft } from '../../../../../rig/edits'
import { inOrder } from '../../../../../rig/inOrder'

export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const device = param(event, 'device')
  const report = await inOrder(`${site}/${device}`, () => dropDraft(site, device, whoAsks(event)))
  if (!report) throw notFound(`device “${device}” in site “${site}”`)
  return { dropped: report }
})
