import { isIP } from 'node:net'
import { message, refusal, type Message } from '../../core/words'

/**
 * A name under which Kovrin may be reached; without a port it means the server’s own and, where somebody listed it, the
 * scheme’s usual one: something may stand before Kovrin there.
 */
export interface AllowedHost {
  name: string
  port: string | null
  listed?: boolean
}

/** What the door looks at of a request. */
export interface Caller {
  method: string
  path: string
  host: string | undefined
  origin: string | undefined
  /** `sec-fetch-site`, `-mode` and `-dest`, as browsers tell them. */
  site: string | undefined
  mode: string | undefined
  dest: string | undefined
}

const loopback = ['localhost', '127.0.0.1', '[::1]'].map(name => ({ name, port: null }))

/** `name`, `name:port`, `[v6]:port` of a Host header or a list; null where it is none of them. */
export function hostOf(text: string): AllowedHost | null {
  const [, v6, plain, port] = /^(?:\[([0-9a-f:.]+)\]|([a-z0-9._-]+))(?::(\d{1,5}))?$/i.exec(text.trim()) ?? []
  if (v6 !== undefined) return isIP(v6) === 6 ? { name: `[${v6.toLowerCase()}]`, port: port ?? null } : null
  return plain === undefined ? null : { name: plain.toLowerCase(), port: port ?? null }
}

/** The names of this machine itself, and those of `KOVRIN_HOSTS`. Throws RangeError for an entry that is no name. */
export function allowedHosts(more: string | undefined): AllowedHost[] {
  const added = (more ?? '').split(',').map(s => s.trim()).filter(Boolean).map((text) => {
    const host = hostOf(text)
    if (!host) throw refusal('server.noHost', { text })
    return { ...host, listed: true }
  })
  return [...loopback, ...added]
}

const usualPort: Record<string, string> = { 'http:': '80', 'https:': '443' }

function isOurOrigin(origin: string, allowed: readonly AllowedHost[], own: string): boolean {
  let url: URL
  try {
    url = new URL(origin)
  }
  catch { return false }
  const usual = usualPort[url.protocol]
  if (usual === undefined || url.origin !== origin) return false
  const port = url.port || usual
  // other programs of this machine have pages at the usual ports of its own names
  const mayBe = (a: AllowedHost) =>
    (a.port !== null ? a.port === port : port === own || (a.listed === true && port === usual))
  return allowed.some(a => a.name === url.hostname && mayBe(a) && (a.listed === true || url.protocol === 'http:'))
}

/** A link from another page may open one of ours; it may load, ask and embed nothing. */
const isOpening = ({ path, mode, dest, method }: Caller) =>
  method === 'GET' && mode === 'navigate' && dest === 'document' && !path.startsWith('/api')

/**
 * Why a request may not come in; null when it may. Names that are not on the list would let a page of
 * another site reach this server by a name of its own (DNS rebinding); pages of other sites may neither change anything
 * nor be told anything. `own` is the port on which the server listens.
 */
export function refusedAtDoor(caller: Caller, allowed: readonly AllowedHost[], own: string): Message | null {
  const host = hostOf(caller.host ?? '')
  if (!host || !allowed.some(a => a.name === host.name && (a.port === null || a.port === (host.port ?? '80'))))
    return message('door.otherName')
  if (caller.origin !== undefined && !isOurOrigin(caller.origin, allowed, own))
    return message('door.otherOrigin')
  const foreign = caller.site === 'cross-site' || caller.site === 'same-site'
  if (foreign && !isOpening(caller)) return message('door.otherSite')
  return null
}
