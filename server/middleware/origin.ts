/**
 * Only pages of this server may change anything: a foreign page in the same browser is refused (so is a foreign
 * name for this address).
 */
export default defineEventHandler((event) => {
  const method = event.method
  if (method === 'GET' || method === 'HEAD') return
  const origin = getRequestHeader(event, 'origin')
  let host: string | null = null
  try {
    host = origin ? new URL(origin).host : null
  }
  catch {
    host = 'unreadable'
  }
  if (host !== null && host !== getRequestHeader(event, 'host'))
    throw createError({ statusCode: 403, message: 'Changes are only taken from Kovrin’s own pages.' })
})
