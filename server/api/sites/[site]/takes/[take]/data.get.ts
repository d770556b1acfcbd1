import { readTakeData } from '../../../../../store/takes'

export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const take = param(event, 'take')
  const data = await readTakeData(site, take)
  if (!data) throw notFound('take.noSuch')
  setResponseHeaders(event, {
    'content-type': 'application/octet-stream',
    'cache-control': 'private, max-age=31536000, immutable',
  })
  return data
})
