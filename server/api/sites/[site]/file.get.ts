import { Readable } from 'node:stream'
import { siteFileOf } from '../../../store/siteFile'

export default defineEventHandler(async (event) => {
  const id = param(event, 'site')
  const text = await siteFileOf(id)
  if (!text) throw notFound('site.noSuch')
  setResponseHeaders(event, {
    'content-type': 'application/json',
    'content-disposition': `attachment; filename="${id}.kovrin.json"`,
  })
  return sendStream(event, Readable.from(text, { objectMode: false }))
})
