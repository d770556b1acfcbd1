import { duplicateTake } from '../../../../../rig/takes'

export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const take = param(event, 'take')
  const record = isUuid(take) ? await duplicateTake(site, take, whoAsks(event)) : null
  if (!record) throw notFound(`take “${take}” in site “${site}”`)
  return record
})
