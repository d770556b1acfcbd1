import { onBus, serverId, tellServers } from '../store/bus'
import { complain } from '../store/client'

// Which sites somebody looks at, by whatever server: what belongs to the others may be looked at seldom.

/** Milliseconds after which a site that nobody spoke of any more is closed. */
const staysOpen = 60_000
/** Other servers are told so often. */
const toldEvery = 20_000

const heard = new Map<string, number>()
const told = new Map<string, number>()
const listeners = new Set<(site: string) => void>()

export function isOpen(site: string, now = Date.now()): boolean {
  const at = heard.get(site)
  if (at === undefined) return false
  if (now - at <= staysOpen) return true
  heard.delete(site)
  told.delete(site)
  return false
}

function note(site: string, now: number) {
  const was = isOpen(site, now)
  heard.set(site, now)
  if (!was) for (const listener of listeners) listener(site)
}

/** Says that a page of this server has a site open. */
export function noteOpen(site: string, now = Date.now()) {
  note(site, now)
  if (now - (told.get(site) ?? 0) < toldEvery) return
  told.set(site, now)
  tellServers({ kind: 'open', site, from: serverId }).catch((error: unknown) => complain('Telling what is open', error))
}

/** Calls back when somebody opens a site that was closed. */
export function onOpened(listener: (site: string) => void): () => void {
  listeners.add(listener)
  return () => listeners.delete(listener)
}

onBus((message) => {
  if (message.kind === 'open' && message.from !== serverId) note(message.site, Date.now())
})
