import { createHash, randomBytes, randomUUID } from 'node:crypto'
import type { IncomingMessage } from 'node:http'
import { eq } from 'drizzle-orm'
import { getCookie, setCookie, type H3Event } from 'h3'
import { database } from '../store/client'
import { sessions } from '../store/schema'
import type { Asker } from '../store/edits'

// Who asks is what the server remembers of the browser's session, never what a request claims. Sign-in will say who
// the person of a session is; until then whoever sits there says how they are called.

const cookie = 'kovrin-session'
const lasts = 365 * 24 * 3600
const nobody: Asker = { who: 'Somebody', person: 'somebody' }

/** Only a hash is stored: what can be read from the database opens no session. */
const hashOf = (token: string) => createHash('sha256').update(token).digest('hex')

const known = new Map<string, { asker: Asker, until: number }>()
/** Milliseconds for which a session is not asked for again; another server may have changed its name. */
const keptFor = 5000
const mostKept = 1000

function remember(id: string, asker: Asker): Asker {
  if (known.size >= mostKept) known.clear()
  known.set(id, { asker, until: Date.now() + keptFor })
  return asker
}

/** Whose session a request belongs to; Somebody where there is none. */
export const asker = (event: H3Event): Promise<Asker> => askerOf(getCookie(event, cookie))

/** The same of a request that is no event yet: one that becomes a line. */
export function askerOfRequest({ headers }: IncomingMessage): Promise<Asker> {
  const pairs = (headers.cookie ?? '').split(';').map(pair => pair.trim().split('='))
  return askerOf(pairs.find(([name]) => name === cookie)?.[1])
}

export const isNobody = ({ person }: Asker) => person === nobody.person

/** Whose session a token opens. */
async function askerOf(token: string | undefined): Promise<Asker> {
  if (!token) return nobody
  const id = hashOf(token)
  const kept = known.get(id)
  if (kept && kept.until > Date.now()) return kept.asker
  const [row] = await database().select().from(sessions).where(eq(sessions.id, id))
  return remember(id, row ? { who: row.who, person: row.person } : nobody)
}

/** Names the person of this session, which begins here where there is none. */
export async function enter(event: H3Event, who: string): Promise<Asker> {
  const token = getCookie(event, cookie)
  if (token) {
    const id = hashOf(token)
    const [row] = await database()
      .update(sessions).set({ who, seen: new Date() }).where(eq(sessions.id, id)).returning()
    if (row) return remember(id, { who, person: row.person })
  }
  const made = randomBytes(32).toString('base64url')
  const asker = { who, person: randomUUID() }
  await database().insert(sessions).values({ id: hashOf(made), ...asker })
  setCookie(event, cookie, made, { httpOnly: true, sameSite: 'strict', path: '/', maxAge: lasts })
  return remember(hashOf(made), asker)
}
