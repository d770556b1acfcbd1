import * as v from 'valibot'
import { PageMessage, type LiveMessage } from '../../core/contract'
import type { Change } from '../../core/documents'
import { actorOf, changesAfter } from '../store/actor'

interface Page {
  send: (text: string) => unknown
}
/** One page that follows a site: what it was told last, and what waits until it has caught up. */
interface Follower {
  site: string
  told: number
  waiting: Change[] | null
  stop: () => void
}
const followers = new WeakMap<object, Follower>()
const say = (page: Page, message: LiveMessage) => page.send(JSON.stringify(message))

/** Changes that a page missed are sent to it; one that missed more reads the site whole. */
const mostMissed = 5000

/** Tells a page every change after a number, in order, and from then on each as it comes. */
async function follow(page: Page, site: string, from: number): Promise<void> {
  followers.get(page)?.stop()
  const actor = actorOf(site)
  const state: Follower = { site, told: from, waiting: [], stop: () => {} }
  const tell = (changes: readonly Change[]) => {
    const fresh = changes.filter(c => c.number > state.told)
    if (!fresh.length) return
    state.told = fresh.at(-1)!.number
    say(page, { type: 'changes', changes: fresh })
  }
  state.stop = actor.listen((changes) => {
    if (state.waiting) state.waiting.push(...changes)
    else tell(changes)
  })
  followers.set(page, state)
  const mirror = await actor.read()
  if (!mirror || from > mirror.number) return void say(page, { type: 'reload' })
  const missed = from < mirror.number ? await changesAfter(site, from, mostMissed + 1) : []
  if (missed.length > mostMissed) return void say(page, { type: 'reload' })
  say(page, { type: 'hello', number: mirror.number })
  tell(missed)
  const { waiting } = state
  state.waiting = null
  tell(waiting ?? [])
}

const originOf = (request: Request): string | null => {
  const origin = request.headers.get('origin')
  if (!origin) return null
  try {
    return new URL(origin).host
  }
  catch { return 'unreadable' }
}

/** One WebSocket for a page: /live?site=ID. It is told changes once it says from which number it follows. */
export default defineWebSocketHandler({
  upgrade(request) {
    const origin = originOf(request as Request)
    const isOurs = origin === null || origin === request.headers.get('host')
    return isOurs ? undefined : new Response('Only pages of this server are told.', { status: 403 })
  },
  open(peer) {
    const site = new URL(peer.request.url, 'http://localhost').searchParams.get('site') ?? ''
    followers.set(peer, { site, told: 0, waiting: null, stop: () => {} })
  },
  message(peer, message) {
    let json: unknown
    try {
      json = JSON.parse(message.text())
    }
    catch { return }
    const read = v.safeParse(PageMessage, json)
    if (!read.success) return
    if (read.output.type === 'ping') say(peer, { type: 'pong' })
    else follow(peer, followers.get(peer)?.site ?? '', read.output.number).catch(() => peer.close())
  },
  close(peer) { followers.get(peer)?.stop() },
})
