import {
  getRequestHeader,
  getRouterParam,
  isError,
  setResponseHeader,
  type H3Event,
} from 'h3'
import * as v from 'valibot'
import { Shares, sharer } from '../access/shares'
import { parseJson } from './json'
import { message, type Message } from '../../core/words'
import { refused } from './refused'

/** A route parameter; it is always there, since the route would not match without it. */
export function param(event: H3Event, name: string): string {
  const given = getRouterParam(event, name)!
  let read: string
  try {
    read = decodeURIComponent(given)
  }
  catch { throw refused(400, message('http.noAddress', { given: given.slice(0, 80) })) }
  if (read.includes('\0')) throw refused(404, message('http.noSuch', { name }))
  return read
}

/** Bytes of bodies that are kept in memory until their requests are answered: of one asker, and of all. */
const bodiesKept = new Shares(640 * 2 ** 20, 1280 * 2 ** 20)
/** Milliseconds in which the next bytes of a body must come. */
const bodyPatience = 30_000

/** The request's body, at most `limit` bytes of it; 429 where its asker has too much under way already. */
async function bodyOf(event: H3Event, limit: number, what: string): Promise<Buffer> {
  const parts: Buffer[] = []
  for await (const part of kept(event, counted(event, limit, what))) parts.push(part)
  return Buffer.concat(parts)
}

/** Milliseconds for which the rest of a body that is refused is still taken from its sender. */
const lingers = 5000

/**
 * Throws the rest of a body away that is refused: cut off in the middle, whoever sends it would not hear why. Who goes
 * on sending is cut off all the same.
 */
export function throwRestAway({ node: { req, res } }: H3Event) {
  res.once('finish', () => {
    if (req.complete) return
    req.resume()
    const cut = setTimeout(() => req.destroy(), lingers)
    req.once('end', () => clearTimeout(cut)).once('close', () => clearTimeout(cut))
  })
}

/** The parts of a body that is kept in memory until its request is answered. */
export async function* kept(event: H3Event, parts: AsyncIterable<Buffer>): AsyncGenerator<Buffer> {
  const who = await sharer(event.node.req)
  const { res } = event.node
  // whoever left meanwhile gives nothing back any more
  if (res.closed) throw refused(400, message('http.endedEarly'))
  let held = 0
  res.once('close', () => bodiesKept.give(who, held))
  for await (const part of parts) {
    if (!bodiesKept.take(who, part.length)) {
      throwRestAway(event)
      setResponseHeader(event, 'retry-after', 10)
      throw refused(429, message('http.tooMuchAtOnce', { seconds: 10 }))
    }
    held += part.length
    yield part
  }
}

/** The body as it comes, counted as it comes: 413 at the first byte over `limit`, whatever was announced. */
export async function* counted(event: H3Event, limit: number, what: string): AsyncGenerator<Buffer> {
  const tooLarge = (told: Message) => {
    throwRestAway(event)
    return refused(413, told)
  }
  const claimed = Number(getRequestHeader(event, 'content-length') ?? 0)
  if (claimed > limit) throw tooLarge(message('http.announcedTooLarge', { limit, what, claimed }))
  let length = 0
  // the connection stays, so that the refusal can be told on it
  const parts = event.node.req.iterator({ destroyOnReturn: false })
  try {
    for (;;) {
      const next = await soon(event, parts.next()).catch((error: Error) => {
        if (isError(error)) throw error
        throw refused(400, message('http.endedEarly'))
      })
      if (next.done) return
      length += (next.value as Buffer).length
      if (length > limit) throw tooLarge(message('http.tooLarge', { limit, what }))
      yield next.value as Buffer
    }
  }
  finally {
    // whoever has enough of it lets go of it; one that waits for more is not waited for
    void parts.return?.().catch(() => {})
  }
}

/** The next part of a body, or 408 when it does not come. */
function soon<T>(event: H3Event, next: Promise<T>): Promise<T> {
  let timer: NodeJS.Timeout | undefined
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => {
      setResponseHeader(event, 'connection', 'close')
      reject(refused(408, message('http.restLate')))
    }, bodyPatience)
  })
  return Promise.race([next, late]).finally(() => clearTimeout(timer))
}

/** True where a list may be the whole body. */
function takesList(schema: v.GenericSchema): boolean {
  const { wrapped } = schema as { wrapped?: v.GenericSchema }
  return wrapped ? takesList(wrapped) : ['array', 'tuple', 'unknown', 'any', 'union', 'variant'].includes(schema.type)
}

/** A page of another site may send text without asking first, but not JSON: what is not called JSON is not taken. */
export function mustBeJson(event: H3Event) {
  const type = getRequestHeader(event, 'content-type')
  if (type === undefined || /^application\/(?:[\w.-]+\+)?json\s*(?:;|$)/i.test(type.trim())) return
  throw refused(415, message('http.notJson', { type: type.slice(0, 80) }))
}

/** The JSON body checked against a schema; answers 400 with what was wrong and where. */
export async function readChecked<S extends v.GenericSchema>(
  event: H3Event,
  schema: S,
  longest = 1024 * 1024,
): Promise<v.InferOutput<S>> {
  mustBeJson(event)
  const bytes = await bodyOf(event, longest, 'of JSON')
  if (!bytes.length) return checked(schema, undefined)
  const body = parseJson(bytes)
  // a list has all that an object may leave out: it is none all the same
  if (body.ok && Array.isArray(body.value) && !takesList(schema))
    throw refused(400, message('http.notObject'))
  if (!body.ok) throw refused(400, message('http.bodyNotTaken', { why: body.why }))
  return checked(schema, body.value)
}

/** `value` as the schema reads it; answers 400 with every fault in words. `what` names it where no part is at fault. */
export function checked<S extends v.GenericSchema>(schema: S, value: unknown, what = 'the body'): v.InferOutput<S> {
  const result = v.safeParse(schema, value)
  if (result.success) return result.output
  const faults = result.issues.map(i => `${v.getDotPath(i) ?? what}: ${i.message}`).join('; ')
  throw refused(400, message('http.notUnderstood', { faults }))
}

/** The body as bytes, at most `limit`; answers 413 or 400 otherwise. */
export async function readBytes(event: H3Event, limit: number): Promise<Buffer> {
  const bytes = await bodyOf(event, limit, 'of a file')
  if (!bytes.length) throw refused(400, message('http.noBody'))
  return bytes
}

/** The body as it comes, of any size: for what is taken in piece by piece. */
export const incoming = (event: H3Event) => counted(event, Number.MAX_SAFE_INTEGER, 'of a file')

/** 404 of what was asked for. */
export const notFound = (code: NothingThere) => refused(404, message(code))
type NothingThere
  = 'site.noSuch' | 'take.noSuch' | 'device.noSuch' | 'preset.noSuch' | 'template.noSuch' | 'lease.noSuch'
