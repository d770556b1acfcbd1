import fc from 'fast-check'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { LiveMessage } from '~~/core/contract'
import type { Change, Documents, Mirror } from '~~/core/documents'
import { createLine } from './eventLine'

/** What the line gave to the socket's library: the test plays the network. */
interface Socket {
  onMessage: (socket: unknown, event: { data: string }) => void
  onConnected: () => void
  onDisconnected: (ws?: object) => void
}
const world = vi.hoisted(() => ({
  socket: null as unknown, sent: [] as string[], closed: 0, opened: 0, ws: { value: undefined as object | undefined },
}))
vi.mock('@vueuse/core', () => ({
  useWebSocket: (_: string, options: unknown) => {
    world.socket = options
    return {
      send: (text: string) => world.sent.push(text),
      close: () => world.closed++,
      open: () => world.opened++,
      ws: world.ws,
    }
  },
}))
vi.stubGlobal('location', { origin: 'http://kovrin.example' })
beforeEach(() => {
  world.sent = []
  world.closed = world.opened = 0
  world.ws.value = undefined
  vi.useFakeTimers()
})
afterEach(() => void vi.useRealTimers())

const change = (number: number, value = number): Change => ({
  document: 'settings/a', path: '/gain', old: undefined, new: value, number, gesture: null, who: 'Ann', person: 'ann',
  origin: 'edit', at: '', live: false,
})
const empty: Documents = { 'settings/a': {} } as Documents
const gainOf = ({ documents }: Mirror) => (documents['settings/a'] as Record<string, unknown>)['/gain']

function page(first: Mirror = { number: 0, documents: empty }) {
  const heard: number[][] = []
  const states: boolean[] = []
  const reload = vi.fn()
  const line = createLine('hall', first, {
    changed: changes => heard.push(changes.map(c => c.number)),
    reload,
    connected: is => states.push(is),
    hush: () => {},
    word: () => {},
    other: vi.fn(),
  })
  const socket = world.socket as Socket
  const say = (message: LiveMessage) => socket.onMessage(null, { data: JSON.stringify(message) })
  const asked = () => world.sent.map(text => JSON.parse(text) as { type: string, number: number })
  return { line, socket, heard, states, reload, say, asked }
}
const changes = (...list: Change[]): LiveMessage => ({ type: 'changes', changes: list })

describe('the line of a page to its site', () => {
  it('asks from its own number when it is connected, each time anew', () => {
    const { line, socket, states, say, asked } = page({ number: 7, documents: empty })
    socket.onConnected()
    expect(asked()).toEqual([{ type: 'follow', number: 7 }])
    say({ type: 'hello', number: 7 })
    say(changes(change(8)))
    socket.onDisconnected()
    expect(states).toEqual([true, false])
    socket.onConnected()
    expect(asked().at(-1)).toEqual({ type: 'follow', number: 8 })
    line.close()
    expect(world.closed).toBe(1)
  })
  it('is begun anew where it never says that it is in step, or does not answer any more', () => {
    const { line, socket, states, say } = page()
    const minute = (each = () => {}) => {
      for (let n = 0; n < 20; n++) {
        vi.advanceTimersByTime(3000)
        each()
      }
    }
    // opened by something that hangs, or that answers signs of life only
    socket.onConnected()
    minute(() => say({ type: 'pong' }))
    expect(world.opened).toBeGreaterThan(3)
    say({ type: 'hello', number: 0 })
    const before = world.opened
    minute(() => say({ type: 'pong' }))
    expect(world.opened).toBe(before)
    minute()
    expect(world.opened).toBeGreaterThan(before)
    expect(states).toEqual([true, false])
    line.close()
    const last = world.opened
    minute()
    expect(world.opened).toBe(last)
  })
  it('goes on when one that was given up before ends at last', () => {
    const { socket, states, say } = page()
    world.ws.value = { name: 'new' }
    say({ type: 'hello', number: 0 })
    socket.onDisconnected({ name: 'old' })
    expect(states).toEqual([true])
    socket.onDisconnected(world.ws.value)
    expect(states).toEqual([true, false])
  })
  it('takes each change once and in order, and asks once for what it missed', () => {
    const { line, heard, say, asked } = page()
    say(changes(change(1), change(2)))
    say(changes(change(2), change(3)))
    say(changes(change(1)))
    expect(heard).toEqual([[1, 2], [3]])
    say(changes(change(5)))
    say(changes(change(6)))
    expect(asked()).toEqual([{ type: 'follow', number: 3 }])
    expect(gainOf(line.mirror)).toBe(3)
    say({ type: 'hello', number: 6 })
    say(changes(change(4), change(5), change(6)))
    expect(gainOf(line.mirror)).toBe(6)
    say(changes(change(8)))
    expect(asked()).toHaveLength(2)
  })
  it('reads anew where too much was missed, and goes on from there', () => {
    const { line, heard, reload, say, asked } = page()
    say({ type: 'reload' })
    expect(reload).toHaveBeenCalledOnce()
    line.restart({ number: 900, documents: empty })
    expect(asked()).toEqual([{ type: 'follow', number: 900 }])
    say(changes(change(901)))
    expect(heard).toEqual([[901]])
  })
  it('says when what came by another way is known here', async () => {
    const { line, say, asked } = page()
    await line.known(1, [change(1)]) // nothing is missing: at once
    let isKnown = false
    const known = line.known(4, [change(4)]).then(() => (isKnown = true))
    await Promise.resolve()
    expect(isKnown).toBe(false)
    expect(asked()).toEqual([{ type: 'follow', number: 1 }])
    say(changes(change(2), change(3), change(4)))
    await known
    expect(gainOf(line.mirror)).toBe(4)
  })
  it('has in the end what the server has, whatever is lost, doubled, late or cut', () => {
    type Step = 'change' | 'lost' | 'again' | 'cut' | 'answer'
    const step = fc.constantFrom<Step>('change', 'change', 'lost', 'again', 'cut', 'answer')
    fc.assert(fc.property(fc.array(step, { maxLength: 60 }), (steps) => {
      world.sent = []
      const { line, socket, heard, say, asked } = page()
      const log: Change[] = []
      let answered = 0
      /** The server tells what comes after the number that was asked last. */
      const answer = () => {
        const open = asked().slice(answered)
        answered += open.length
        const last = open.at(-1)
        if (!last) return
        say({ type: 'hello', number: log.length })
        say(changes(...log.slice(last.number)))
      }
      socket.onConnected()
      for (const what of steps) {
        if (what === 'change' || what === 'lost') log.push(change(log.length + 1))
        if (what === 'change') say(changes(log.at(-1)!))
        if (what === 'again') say(changes(...log.slice(-3)))
        if (what === 'answer') answer()
        if (what === 'cut') {
          socket.onDisconnected()
          answered = asked().length // what was asked by the line of before is not answered
          socket.onConnected()
        }
      }
      answer()
      // a change more shows what was missed
      log.push(change(log.length + 1))
      say(changes(log.at(-1)!))
      answer()
      expect(line.mirror.number).toBe(log.length)
      expect(gainOf(line.mirror)).toBe(log.length)
      expect(heard.flat()).toEqual(log.map(c => c.number))
    }))
  })
})
