import { takeData } from '../../../../../rig/takes'

const uuid = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i

export default defineEventHandler(async (event) => {
  const site = param(event, 'site'), take = param(event, 'take')
  const data = uuid.test(take) ? await takeData(site, take) : null
  if (!data) throw notFound(`take “${take}” in site “${site}”`)
  setResponseHeaders(event, { 'content-type': 'application/octet-stream', 'cache-control': 'private, max-age=31536000, immutable' })
  return data
})
