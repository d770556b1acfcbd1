import { getRequestURL, send, setResponseHeader, setResponseStatus } from 'h3'
import type { NitroErrorHandler } from 'nitropack'
import { complain, databaseAway, diskFull, valueRefused } from './store/client'
import { message, toldOf, wordsOf, type Message } from '../core/words'

const answer = (statusCode: number, told: Message) => ({ statusCode, ...told, message: wordsOf(told) })

/** Status, code with values, sentence and what goes with it of a failure as whoever asked is told it. */
export function answerOf(error: Error & { statusCode?: number, data?: unknown, unhandled?: boolean }) {
  const { statusCode = 500, data } = error
  if (databaseAway(error))
    return answer(503, message('server.databaseAway'))
  if (diskFull(error))
    return answer(507, message('server.diskFull'))
  if (valueRefused(error)) return answer(422, message('server.valueRefused'))
  if (statusCode >= 500 && statusCode !== 503)
    return answer(statusCode, message('server.failed'))
  return { ...answer(statusCode, toldOf(error.cause ?? error)), ...(data === undefined ? {} : { data }) }
}

/** Every failure under /api is JSON with a sentence, whatever the asker says that it reads. */
const handler: NitroErrorHandler = (error, event) => {
  const { pathname } = getRequestURL(event)
  if (event.handled || !(pathname === '/api' || pathname.startsWith('/api/'))) return
  const told = answerOf(error)
  if (told.statusCode >= 500) complain(`${event.method} ${pathname}`, error)
  setResponseStatus(event, told.statusCode)
  setResponseHeader(event, 'content-type', 'application/json')
  if (told.statusCode === 503 && !event.node.res.hasHeader('retry-after')) setResponseHeader(event, 'retry-after', 2)
  return send(event, JSON.stringify(told))
}
export default handler
