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

/** The request's body, at most `limit` bytes of it: reading ends where more come, whatever was announced. */
async function bodyOf(event: H3Event, limit: number, what: string): Promise<Buffer> {
  const tooLarge = (bytes: string) =>
    createError({ statusCode: 413, message: `At most ${limit} bytes ${what} are taken, ${bytes}.` })
  const claimed = Number(getRequestHeader(event, 'content-length') ?? 0)
  if (claimed > limit) throw tooLarge(`${claimed} were announced`)
  const parts: Buffer[] = []
  let length = 0
  try {
    // the connection stays, so that the refusal can be told on it
    for await (const part of event.node.req.iterator({ destroyOnReturn: false })) {
      parts.push(part as Buffer)
      length += (part as Buffer).length
      if (length > limit) break
    }
  }
  catch { throw createError({ statusCode: 400, message: 'The request’s body ended too early.' }) }
  if (length <= limit) return Buffer.concat(parts)
  setResponseHeader(event, 'connection', 'close')
  throw tooLarge('more came')
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
  if (!body.ok) throw createError({ statusCode: 400, message: `The request’s body is not taken. ${body.why}` })
  return checked(schema, body.value)
}

/** `value` as the schema reads it; answers 400 with every fault in words. */
export function checked<S extends v.GenericSchema>(schema: S, value: unknown): v.InferOutput<S> {
  const result = v.safeParse(schema, value)
  if (result.success) return result.output
  const faults = result.issues.map(i => `${v.getDotPath(i) ?? 'the body'}: ${i.message}`).join('; ')
  throw createError({ statusCode: 400, message: `The request is not understood: ${faults}.` })
}

/** The body as bytes, at most `limit`; answers 413 or 400 otherwise. */
export async function readBytes(event: H3Event, limit: number): Promise<Buffer> {
  const bytes = await bodyOf(event, limit, 'of a file')
  if (!bytes.length) throw createError({ statusCode: 400, message: 'The request has no body.' })
  return bytes
}

/** The body as it comes, of any size: for what is taken in piece by piece. */
export async function* incoming(event: H3Event): AsyncGenerator<Uint8Array> {
  // the connection stays, so that a refusal can be told on it
  for await (const part of event.node.req.iterator({ destroyOnReturn: false })) yield part as Buffer
}

export const notFound = (what: string) => createError({ statusCode: 404, message: `There is no ${what}.` })
