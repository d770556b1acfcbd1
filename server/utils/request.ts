import { createError, getRequestHeader, getRouterParam, setResponseHeader, type H3Event } from 'h3'
import * as v from 'valibot'
import { parseJson } from './json'

/** A route parameter; it is always there, since the route would not match without it. */
export function param(event: H3Event, name: string): string {
  const given = getRouterParam(event, name)!
  let read: string
  try {
    read = decodeURIComponent(given)
  }
  catch { throw createError({ statusCode: 400, message: `“${given.slice(0, 80)}” is no address.` }) }
  if (read.includes('\0')) throw notFound(`${name} of such a name`)
  return read
}

/** The request's body, at most `limit` bytes of it. */
async function bodyOf(event: H3Event, limit: number, what: string): Promise<Buffer> {
  const parts: Buffer[] = []
  for await (const part of counted(event, limit, what)) parts.push(part)
  return Buffer.concat(parts)
}

/** The body as it comes, counted as it comes: 413 at the first byte over `limit`, whatever was announced. */
export async function* counted(event: H3Event, limit: number, what: string): AsyncGenerator<Buffer> {
  const tooLarge = (bytes: string) =>
    createError({ statusCode: 413, message: `At most ${limit} bytes ${what} are taken, ${bytes}.` })
  const claimed = Number(getRequestHeader(event, 'content-length') ?? 0)
  if (claimed > limit) throw tooLarge(`${claimed} were announced`)
  let length = 0
  // the connection stays, so that the refusal can be told on it
  const parts = event.node.req.iterator({ destroyOnReturn: false })
  for (;;) {
    const next = await parts.next().catch(() => {
      throw createError({ statusCode: 400, message: 'The request’s body ended too early.' })
    })
    if (next.done) return
    length += (next.value as Buffer).length
    if (length > limit) {
      setResponseHeader(event, 'connection', 'close')
      throw tooLarge('more came')
    }
    yield next.value as Buffer
  }
}

/** True where a list may be the whole body. */
function takesList(schema: v.GenericSchema): boolean {
  const { wrapped } = schema as { wrapped?: v.GenericSchema }
  return wrapped ? takesList(wrapped) : ['array', 'tuple', 'unknown', 'any', 'union', 'variant'].includes(schema.type)
}

/** The JSON body checked against a schema; answers 400 with what was wrong and where. */
export async function readChecked<S extends v.GenericSchema>(
  event: H3Event,
  schema: S,
  longest = 1024 * 1024,
): Promise<v.InferOutput<S>> {
  const bytes = await bodyOf(event, longest, 'of JSON')
  if (!bytes.length) return checked(schema, undefined)
  const body = parseJson(bytes)
  // a list has all that an object may leave out: it is none all the same
  if (body.ok && Array.isArray(body.value) && !takesList(schema))
    throw createError({ statusCode: 400, message: 'The request is not understood: the body must be an object.' })
  if (!body.ok) throw createError({ statusCode: 400, message: `The request’s body is not taken. ${body.why}` })
  return checked(schema, body.value)
}

/** `value` as the schema reads it; answers 400 with every fault in words. `what` names it where no part is at fault. */
export function checked<S extends v.GenericSchema>(schema: S, value: unknown, what = 'the body'): v.InferOutput<S> {
  const result = v.safeParse(schema, value)
  if (result.success) return result.output
  const faults = result.issues.map(i => `${v.getDotPath(i) ?? what}: ${i.message}`).join('; ')
  throw createError({ statusCode: 400, message: `The request is not understood: ${faults}.` })
}

/** The body as bytes, at most `limit`; answers 413 or 400 otherwise. */
export async function readBytes(event: H3Event, limit: number): Promise<Buffer> {
  const bytes = await bodyOf(event, limit, 'of a file')
  if (!bytes.length) throw createError({ statusCode: 400, message: 'The request has no body.' })
  return bytes
}

/** The body as it comes, of any size: for what is taken in piece by piece. */
export const incoming = (event: H3Event) => counted(event, Number.MAX_SAFE_INTEGER, 'of a file')

export const notFound = (what: string) => createError({ statusCode: 404, message: `There is no ${what}.` })
