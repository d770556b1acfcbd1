import { changeTake, TakeChange } from '../../../../../rig/takes'

export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const take = param(event, 'take')
  const change = await readChecked(event, TakeChange)
  const record = isUuid(take) ? await changeTake(site, take, change, whoAsks(event)) : null
  if (!record) throw notFound(`take “${take}” in site “${site}”`)
  return record
})
