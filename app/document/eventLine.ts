import { useWebSocket } from '@vueuse/core'
import type { LiveMessage, PageMessage, Sounding } from '~~/core/contract'
import { hear, type Change, type Documents, type Mirror } from '~~/core/documents'

/** What hears of the site's line to the server. */
export interface LineEvents {
  /** Changes were taken in; `before` are the documents without them. */
  changed: (changes: readonly Change[], before: Documents) => void
  /** Too much was missed: everything must be read anew. */
  reload: () => void
  connected: (is: boolean) => void
  /** Every test signal of the site is to end. */
  hush: () => void
  /** The server is there, and this page may sound on. */
  word: () => void
  /** Another page of the site sounds. */
  other: (page: string, sounding: Sounding) => void
}

/** Milliseconds between two signs of life to the server. */
const signEvery = 3000
/** Signs without an answer after which a line is given up for a new one; or that it took too long to open. */
const mostUnanswered = 3

/**
 * The mirror of a site, kept in step over one WebSocket: it follows from its number and takes changes in their
 * order only, so that it can
 * neither miss nor repeat one, whatever becomes of the line.
 */
export function createLine(site: string, first: Mirror, events: LineEvents) {
  let mirror = first
  let waiting: { number: number, done: () => void }[] = []
  /** True while the server was asked to tell again from our number. */
  let asked = false
  let connected = false
  /** Signs since the line last gave a word, or was begun anew. */
  let unanswered = 0

  const set = (is: boolean) => {
    connected = is
    asked = false
    events.connected(is)
  }
  const take = (changes: readonly Change[]) => {
    const heard = hear(mirror, changes)
    if (heard.state === 'gap') return follow()
    if (heard.state !== 'taken') return
    const before = mirror.documents
    mirror = heard.mirror
    events.changed(heard.changes, before)
    const due = waiting.filter(w => w.number <= mirror.number)
    waiting = waiting.filter(w => w.number > mirror.number)
    for (const w of due) w.done()
  }
  function follow() {
    if (asked) return
    asked = true
    socket.send(JSON.stringify({ type: 'follow', number: mirror.number }))
  }
  const listen = (message: LiveMessage) => {
    // on a line that never said hello a pong is no sign that it leads anywhere
    if (connected || message.type !== 'pong') unanswered = 0
    switch (message.type) {
      case 'hello':
        set(true)
        break
      case 'changes':
        take(message.changes)
        break
      case 'reload':
        asked = false
        events.reload()
        break
      case 'pong':
        break
      case 'hush':
        events.hush()
        break
      case 'sound':
        events.word()
        break
      case 'other':
        events.other(message.page, message)
        break
    }
  }

  const socket = useWebSocket<string>(
    `${location.origin.replace('http', 'ws')}/live?site=${encodeURIComponent(site)}&page=${crypto.randomUUID()}`,
    {
      autoReconnect: { delay: 500 },
      onMessage: (_, event) => listen(JSON.parse(event.data as string) as LiveMessage),
      onConnected: () => {
        asked = false
        follow()
      },
      onDisconnected: (ws) => {
        // one that was given up may end long after the next has begun
        if (socket.ws.value === undefined || socket.ws.value === ws) set(false)
      },
    },
  )
  const signs = setInterval(() => {
    if (unanswered++ < mostUnanswered) return void socket.send(JSON.stringify({ type: 'ping' }), false)
    unanswered = 0
    if (connected) set(false)
    socket.open()
  }, signEvery)

  return {
    get mirror() {
      return mirror
    },
    /** Begins anew from what was read whole. */
    restart(next: Mirror) {
      mirror = next
      asked = false
      follow()
    },
    /** Takes in changes that came by another way, and resolves when everything up to `number` is known. */
    known(number: number, changes: readonly Change[]): Promise<void> {
      take(changes)
      if (mirror.number >= number) return Promise.resolve()
      return new Promise((done) => {
        waiting.push({ number, done })
        follow()
      })
    },
    /** Asks the server to tell everything that may have been missed. */
    follow,
    /** Says something that is worth nothing later: it is not kept until the line is back. */
    tell: (message: PageMessage) => socket.send(JSON.stringify(message), false),
    close: () => {
      clearInterval(signs)
      socket.close()
    },
  }
}
