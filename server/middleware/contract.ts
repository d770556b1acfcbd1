import { operationsAt, queryEntries } from '../../core/contract'
import { message } from '../../core/words'

/** Addresses, methods and options that no request of the contract has are refused in words, before anything is done. */
export default defineEventHandler((event) => {
  const { pathname, searchParams } = getRequestURL(event)
  if (pathname !== '/api' && !pathname.startsWith('/api/')) return
  const methods = operationsAt(pathname)
  const allowed = Object.keys(methods).map(m => m.toUpperCase())
  if (!allowed.length)
    throw refused(404, message('http.nothingAt', { path: pathname }))
  const operation = methods[event.method === 'HEAD' ? 'get' : event.method.toLowerCase()]
  if (!operation) {
    setResponseHeader(event, 'allow', allowed.join(', '))
    throw refused(405, message('http.noMethod', {
      method: event.method,
      path: pathname,
      allowed: allowed.join(' and '),
    }))
  }
  const known = Object.keys(queryEntries(operation))
  const unknown = [...searchParams.keys()].find(name => !known.includes(name))
  if (unknown !== undefined)
    throw refused(400, known.length
      ? message('http.noOption', { option: unknown, known: known.join(', ') })
      : message('http.noOptions', { option: unknown }))
})
