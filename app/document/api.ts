import { promiseTimeout } from '@vueuse/core'
import { onBeforeUnmount } from 'vue'
import type { SessionAnswer } from '~~/core/contract'
import { message, Refusal, type Message } from '~~/core/words'
import { phrase } from '~/parts/phrase'
/** A refusal by the server, with what it sent along. */
export class AnswerRefusal extends Refusal {
  constructor(
    told: Message,
    readonly status: number,
    readonly data: unknown,
  ) {
    super(told)
  }
}

/** How the person at this browser is called. */
export const nameHere = () =>
  (localStorage.getItem('kovrin-who') ?? '').trim().slice(0, 60) || phrase('document.technician')

let entered: Promise<SessionAnswer> | null = null
let me: SessionAnswer | null = null

/** The key by which the history tells this person from others of the same name; null before the server was asked. */
export const personKey = (): string | null => me?.person ?? null

/** Says at the server who sits at this browser, as last named here: before anything is changed, and once. */
function enter(): Promise<SessionAnswer> {
  if (entered) return entered
  entered = request('/api/session', { method: 'PUT', body: { who: nameHere() } })
    .then(async answer => (me = await answer.json() as SessionAnswer))
  entered.catch(() => (entered = null))
  return entered
}
/** The name was changed: the next request says it first. */
export const renamed = () => (entered = null)

interface Init {
  method?: string
  /** It only reads, also where what is wanted is too long for an address. */
  reads?: boolean
  body?: unknown
  bytes?: BodyInit
  /** What `bytes` are. */
  type?: string
}

/** Who only reads need not be known first: it is said meanwhile. */
const known = ({ method = 'GET', reads = method === 'GET' }: Init) => (reads ? void enter().catch(() => {}) : enter())

/** Asks this server. Throws AnswerRefusal with what the server tells, or that it cannot be reached. */
export async function ask<T>(path: string, init: Init = {}): Promise<T> {
  await known(init)
  const answer = await request(path, init)
  return answer.json() as Promise<T>
}

/** Like `ask`, for binary answers. */
export async function askBytes(path: string): Promise<Uint8Array> {
  await known({})
  return new Uint8Array(await (await request(path, {})).arrayBuffer())
}

/** Milliseconds after which who was away is asked again. */
const askAgain = 1000
/** What the server answers while the database behind it is away. */
const behind = [502, 503, 504]

/**
 * Asks again every second while the server, or the database behind it, is away; for what may be asked twice. `away` is
 * told who, each time, and ends it by giving false: null then. Throws like `make` for every other reason.
 */
export async function patiently<T>(make: () => Promise<T>, away: (who: string) => boolean): Promise<T | null> {
  try {
    return await make()
  }
  catch (error) {
    if (!(error instanceof AnswerRefusal) || ![0, ...behind].includes(error.status)) throw error
    if (!away(error.status
      ? phrase('document.kovrinsDatabaseDoesNot')
      : phrase('common.kovrinsServerDoesNot'))) return null
  }
  await promiseTimeout(askAgain)
  return patiently(make, away)
}

/** `patiently`, for as long as this component is there. */
export function usePatience() {
  let isThere = true
  onBeforeUnmount(() => (isThere = false))
  return <T>(make: () => Promise<T>, away: (who: string) => void = () => {}) =>
    patiently(make, (who) => {
      if (isThere) away(who)
      return isThere
    })
}

/** What an answer tells: by its code, in its words where it has none. */
function refusedBy(told: Partial<Message & { message: string }> | null, status: number): Message {
  if (told?.code !== undefined && told.values) return { code: told.code, values: told.values }
  return told?.message === undefined ? message('server.answered', { status }) : message('words', { text: told.message })
}

async function request(path: string, init: Init): Promise<Response> {
  const { method = 'GET', body, bytes, type = 'application/octet-stream' } = init
  const headers: Record<string, string> = {}
  if (body !== undefined) headers['content-type'] = 'application/json'
  if (bytes !== undefined) headers['content-type'] = type
  const content = bytes ?? (body === undefined ? null : JSON.stringify(body))
  let answer: Response
  try {
    answer = await fetch(path, { method, headers, body: content })
  }
  catch {
    throw new AnswerRefusal(message(method === 'GET' ? 'server.away' : 'server.awayUnsure'), 0, null)
  }
  if (answer.ok) return answer
  const told = (await answer.json().catch(() => null)) as Partial<Message & { message: string, data: unknown }> | null
  throw new AnswerRefusal(refusedBy(told, answer.status), answer.status, told?.data ?? null)
}
