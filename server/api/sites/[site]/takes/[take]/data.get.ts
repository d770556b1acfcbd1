import { readTakeData } from '../../../../../store/takes'

export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const take = param(event, 'take')
  const data = await readTakeData(site, take)
  if (!data) throw notFound('such take in this site')
  setResponseHeaders(event, {
    'content-type': 'application/octet-stream',
    'cache-control': 'private, max-age=31536000, immutable',
  })
  return data
})
