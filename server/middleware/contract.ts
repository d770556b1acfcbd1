import { operationsAt, queryEntries } from '../../core/contract'

/** Addresses, methods and options that no request of the contract has are refused in words, before anything is done. */
export default defineEventHandler((event) => {
  const { pathname, searchParams } = getRequestURL(event)
  if (pathname !== '/api' && !pathname.startsWith('/api/')) return
  const methods = operationsAt(pathname)
  const allowed = Object.keys(methods).map(m => m.toUpperCase())
  if (!allowed.length)
    throw createError({
      statusCode: 404,
      message: `There is nothing at “${pathname}”. What there is stands at /api/docs.`,
    })
  const operation = methods[event.method === 'HEAD' ? 'get' : event.method.toLowerCase()]
  if (!operation) {
    setResponseHeader(event, 'allow', allowed.join(', '))
    throw createError({
      statusCode: 405,
      message: `${event.method} is not taken at “${pathname}”; ${allowed.join(' and ')} ${
        allowed.length === 1 ? 'is' : 'are'}.`,
    })
  }
  const known = Object.keys(queryEntries(operation))
  const unknown = [...searchParams.keys()].find(name => !known.includes(name))
  if (unknown !== undefined)
    throw createError({
      statusCode: 400,
      message: `“${unknown}” is no option of this request; ${
        known.length ? `its options are ${known.join(', ')}` : 'it has none'}.`,
    })
})
