import { JSONParser } from '@streamparser/json'
import type { H3Event } from 'h3'
import { jsonBounds, unkeepable } from './json'
import { counted, kept, mustBeJson, throwRestAway } from './request'
import { inTurns, turn } from './turns'
import { message, type Message } from '../../core/words'
import { refused } from './refused'

const textBytes = 64 * 1024
const pieceBytes = 8 * 1024

function* writing(parser: JSONParser, part: Uint8Array): Generator<undefined, void> {
  for (let at = 0; at < part.length; at += pieceBytes) {
    parser.write(part.subarray(at, at + pieceBytes))
    yield
  }
}

const notTaken = (why: Message) => refused(400, message('http.bodyNotTaken', { why }))

/** JSON of a large body, read as it comes and never in one go: nobody else waits for it. */
export async function readStreamed(event: H3Event, limit: number): Promise<unknown> {
  mustBeJson(event)
  const bounds = jsonBounds()
  const parser = new JSONParser({ stringBufferSize: textBytes, paths: ['$'] })
  let body: unknown
  parser.onValue = ({ value }) => {
    body = value
  }
  try {
    for await (const part of kept(event, counted(event, limit, 'of JSON'))) {
      const much = bounds(part)
      if (much !== null) {
        throwRestAway(event)
        throw notTaken(much)
      }
      await inTurns(writing(parser, part))
      await turn()
    }
    if (!parser.isEnded) parser.end()
  }
  catch (error) {
    if ((error as { statusCode?: number }).statusCode) throw error
    throw notTaken(message('json.none'))
  }
  const why = await inTurns(faultIn(body))
  if (why !== null) throw notTaken(why)
  return body
}

/** Parts of a body that are looked at one by one: the members of its largest objects. */
function* partsOf(body: unknown, depth = 0): Generator<unknown> {
  if (typeof body !== 'object' || body === null || Array.isArray(body) || depth === 3) yield body
  else for (const [key, value] of Object.entries(body)) {
    yield key
    // bytes in base64 have neither NUL nor half characters: their schema sees to it
    if (depth < 2 || typeof value !== 'string' || value.length < textBytes) yield* partsOf(value, depth + 1)
  }
}

function* faultIn(body: unknown): Generator<undefined, Message | null> {
  for (const part of partsOf(body)) {
    let text: string
    try {
      text = JSON.stringify(part) ?? ''
    }
    catch { return message('json.tooDeep') }
    const why = unkeepable(Buffer.from(text))
    if (why !== null) return why
    yield
  }
  return null
}
