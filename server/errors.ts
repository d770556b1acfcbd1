import { getRequestURL, send, setResponseHeader, setResponseStatus } from 'h3'
import type { NitroErrorHandler } from 'nitropack'
import { complain, databaseAway, diskFull, valueRefused } from './store/client'

const look = 'Look whether it was done before you do it again.'

/** Status, sentence and what goes with it of a failure as whoever asked is told it. */
export function toldOf(error: Error & { statusCode?: number, data?: unknown, unhandled?: boolean }) {
  const { statusCode = 500, data } = error
  if (databaseAway(error))
    return { statusCode: 503, message: `The database does not answer, so it is not known how far this got. ${look}` }
  if (diskFull(error))
    return { statusCode: 507, message: 'The disk of the database is full: nothing was stored. Make room first.' }
  if (valueRefused(error)) return { statusCode: 422, message: 'A value in it cannot be kept: nothing was changed.' }
  if (statusCode >= 500 && statusCode !== 503)
    return { statusCode, message: `Kovrin’s server failed at this and does not know how far it got. ${look}` }
  return { statusCode, message: error.message, ...(data === undefined ? {} : { data }) }
}

/** Every failure under /api is JSON with a sentence, whatever the asker says that it reads. */
const handler: NitroErrorHandler = (error, event) => {
  const { pathname } = getRequestURL(event)
  if (event.handled || !(pathname === '/api' || pathname.startsWith('/api/'))) return
  const told = toldOf(error)
  if (told.statusCode >= 500) complain(`${event.method} ${pathname}`, error)
  setResponseStatus(event, told.statusCode)
  setResponseHeader(event, 'content-type', 'application/json')
  if (told.statusCode === 503 && !event.node.res.hasHeader('retry-after')) setResponseHeader(event, 'retry-after', 2)
  return send(event, JSON.stringify(told))
}
export default handler
