import * as v from 'valibot'
import { PageMessage, type LiveMessage, type Sounding } from '../../core/contract'
import type { Change } from '../../core/documents'
import { actorOf, changesAfter } from '../store/actor'
import { onBus, serverId, tellServers } from '../store/bus'
import { complain } from '../store/client'
import { gauge } from '../watch/metrics'
import { noteOpen } from './openSites'

/** A page's line, as the socket's library gives it. */
export interface Line {
  send: (text: string) => unknown
  /** Bytes that were sent and that the page has not read yet. */
  unread: () => number
  /** Lets it go at once, without waiting for what it does not read; it may come back and follow from its number. */
  drop: () => void
}

/** One page that follows a site: what it was told last, and what waits until it has caught up. */
interface Follower {
  site: string
  /** Whose line it is. */
  who: string
  page: string
  line: Line
  told: number
  waiting: Change[] | null
  heard: number
  /** When the others were last told that it sounds. */
  announced: number
  /** From which number it asked to follow while that was being seen to: of several the last. */
  next: number | null
  following: boolean
  stop: () => void
}

/** Changes that a page missed are sent to it; one that missed more reads the site whole. */
const mostMissed = 5000
/** Bytes of the longest message that a page may send. */
export const longestMessage = 4096
/** Bytes that may wait for a page; one that reads no faster is let go and follows later. */
const mostUnread = 8 * 2 ** 20
/** Lines in all, of one page (a line that hangs and the one that replaces it). */
const mostLines = 500
const mostOfPage = 4
/** Lines of one asker. */
const mostOfOne = 100
/** A page says every 5 s that it is there; a line on which nothing was said for so long has nobody at its end. */
const silentAfter = 60_000
/** Others are told so often that a page sounds. */
const announceEvery = 900

const followers = new Map<object, Follower>()

gauge('kovrin_pages', 'Pages that follow a site', () => followers.size)

function say(follower: Follower, message: LiveMessage) {
  if (follower.line.unread() > mostUnread) return letGo(follower)
  follower.line.send(JSON.stringify(message))
}

function letGo({ line, stop }: Follower) {
  stop()
  line.drop()
}

/** Takes in a new line; false when there are too many. The oldest of one page makes room for its newest. */
export function open(key: object, site: string, page: string, line: Line, who = page): boolean {
  if (followers.size >= mostLines) return false
  if ([...followers.values()].filter(f => f.who === who).length >= mostOfOne) return false
  const own = [...followers].filter(([, f]) => f.page === page && f.site === site)
  for (const [old, follower] of own.slice(0, Math.max(0, own.length + 1 - mostOfPage))) {
    followers.delete(old)
    letGo(follower)
  }
  followers.set(key, {
    site, who, page, line, told: 0, waiting: null, heard: Date.now(), announced: 0, next: null, following: false,
    stop: () => {},
  })
  return true
}

export function close(key: object) {
  followers.get(key)?.stop()
  followers.delete(key)
}

/** Lets go of lines on which nobody speaks any more. */
export function sweepLines(now = Date.now()) {
  for (const [key, follower] of followers) {
    if (now - follower.heard <= silentAfter) continue
    followers.delete(key)
    letGo(follower)
  }
}

/** Tells a page every change after a number, in order, and from then on each as it comes. */
async function follow(state: Follower, from: number): Promise<void> {
  state.stop()
  const { site } = state
  const actor = actorOf(site)
  state.told = from
  state.waiting = []
  const tell = (changes: readonly Change[]) => {
    const fresh = changes.filter(c => c.number > state.told)
    if (!fresh.length) return
    state.told = fresh.at(-1)!.number
    say(state, { type: 'changes', changes: fresh })
  }
  const deaf = actor.listen((changes) => {
    if (state.waiting) state.waiting.push(...changes)
    else tell(changes)
  })
  const endless = actor.onRenewal(() => say(state, { type: 'reload' }))
  state.stop = () => {
    deaf()
    endless()
  }
  const mirror = await actor.read()
  if (!mirror || from > mirror.number) return void say(state, { type: 'reload' })
  noteOpen(site)
  const missed = from < mirror.number ? await changesAfter(site, from, mostMissed + 1) : []
  if (missed.length > mostMissed) return void say(state, { type: 'reload' })
  say(state, { type: 'hello', number: mirror.number })
  tell(missed)
  const { waiting } = state
  state.waiting = null
  tell(waiting ?? [])
}

/** Follows from where the page asked last, one reading after the other, however often it asks. */
async function followNext(state: Follower, from: number) {
  state.next = from
  if (state.following) return
  state.following = true
  try {
    while (state.next !== null) {
      const at: number = state.next
      state.next = null
      await follow(state, at)
    }
  }
  finally {
    state.following = false
  }
}

/** What a page says; anything that is not of the contract is passed over. */
export function hear(key: object, text: string) {
  const state = followers.get(key)
  if (!state) return
  state.heard = Date.now()
  let json: unknown
  try {
    json = JSON.parse(text)
  }
  catch { return }
  const read = v.safeParse(PageMessage, json)
  if (!read.success) return
  switch (read.output.type) {
    case 'ping':
      noteOpen(state.site)
      return void say(state, { type: 'pong' })
    case 'sounding': return sounds(state, read.output)
    case 'hush': return hushSite(state.site)
    default: followNext(state, read.output.number).catch(() => letGo(state))
  }
}

/** Gives a page that sounds the word, and tells the others who sounds, about once a second. */
function sounds(state: Follower, { who, what, left }: Sounding) {
  say(state, { type: 'sound' })
  const now = Date.now()
  if (now - state.announced < announceEvery) return
  state.announced = now
  const { site, page } = state
  announce(site, page, { who, what, left })
  tellServers({ kind: 'sounds', site, from: serverId, page, sounding: { who, what, left } })
    .catch((error: unknown) => complain('Telling who sounds', error))
}
function announce(site: string, page: string, sounding: Sounding) {
  for (const other of followers.values())
    if (other.site === site && other.page !== page) say(other, { type: 'other', page, ...sounding })
}

const hushHere = (site: string) => {
  for (const follower of followers.values()) if (follower.site === site) say(follower, { type: 'hush' })
}

/** Ends every test signal of a site: of this server's pages at once, of other servers' as soon as they are told. */
export function hushSite(site: string) {
  hushHere(site)
  tellServers({ kind: 'hush', site, from: serverId }).catch((error: unknown) => complain('Hush', error))
}
onBus((message) => {
  if (message.kind === 'hush' && message.from !== serverId) hushHere(message.site)
  if (message.kind === 'sounds' && message.from !== serverId) announce(message.site, message.page, message.sounding)
})
