import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { connect, createServer, type Server, type Socket } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { runDevice } from '../../standins/device/device'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import type { Settings } from '../../core/rig'
import type { DeviceDriver, Told } from './driver'
import { Link } from './link'
import { lineDriver } from './lineDriver'

const amplifier = ropewalkDevices.find(d => d.id === 'amp-c')!
const ends: (() => void)[] = []
afterEach(() => {
  for (const end of ends.splice(0).reverse()) end()
})

const folder = () => mkdtempSync(join(tmpdir(), 'kovrin-device-'))
async function device(at = folder(), port = 0) {
  const running = await runDevice(amplifier, at, port)
  ends.push(running.close)
  return { ...running, at, file: join(at, 'amp-c.json'), address: `127.0.0.1:${running.port}` }
}
/** A link whose owner keeps what it is told, each batch taking `slowly` ms. */
function link(address: () => string | null, slowly = 0) {
  const states: string[] = []
  let held: Settings = {}
  const order: unknown[] = []
  const passed: string[][] = []
  const made = new Link(lineDriver, address, {
    state: (state) => {
      states.push(state)
    },
    read: async (_, settings, _serial, passing) => {
      held = settings
      passed.push([...passing])
    },
    held: async (told: readonly Told[]) => {
      if (slowly) await new Promise(done => setTimeout(done, slowly))
      for (const { path, value } of told) {
        held = { ...held, [path]: value }
        order.push(value)
      }
    },
  })
  ends.push(() => made.stop())
  return { made, states, order, passed, held: () => held }
}
const live = (l: ReturnType<typeof link>) =>
  vi.waitFor(() => expect(l.made.state).toBe('live'), { timeout: 10_000 })

/** A server that answers every connection as told; what a broken or foreign device may do. */
async function stranger(behave: (socket: Socket) => void): Promise<string> {
  const server: Server = createServer((socket) => {
    socket.on('error', () => {})
    behave(socket)
  })
  await new Promise<void>(done => server.listen(0, '127.0.0.1', done))
  ends.push(() => server.close())
  return `127.0.0.1:${(server.address() as { port: number }).port}`
}
/** Answers a request as the stand-in would, but for what `special` does itself. */
const answering
  = (special: (socket: Socket, message: { id: number, op: string, values?: unknown }) => boolean) =>
    (socket: Socket) =>
      socket.on('data', (text) => {
        for (const line of text.toString().split('\n').filter(Boolean)) {
          const message = JSON.parse(line) as { id: number, op: string, values?: unknown }
          if (special(socket, message)) continue
          const { id, op, values } = message
          const { capability } = amplifier
          socket.write(`${JSON.stringify(op === 'describe' ? { id, capability, settings: {} } : { id, values })}\n`)
        }
      })

describe('a link to a device', () => {
  it('reads everything, writes what the device can hold, and hears what others change', async () => {
    const amp = await device()
    const a = link(() => amp.address)
    const b = link(() => amp.address)
    await Promise.all([live(a), live(b)])
    expect(a.held()).toEqual(amplifier.delivered)
    expect(await a.made.wish('/outputs/0/gain', -3.26)).toEqual({ ok: true, value: -3.5 }) // steps of half a decibel
    await vi.waitFor(() => expect(b.held()['/outputs/0/gain']).toBe(-3.5))
    expect(await a.made.wish('/outputs/0/gain', 99)).toMatchObject({
      ok: false,
      why: expect.stringContaining('allowed'),
    })
    expect(await a.made.wish('/outputs/9/gain', 0)).toMatchObject({
      ok: false,
      why: expect.stringContaining('refused'),
    })
    expect(a.made.state).toBe('live')
  })
  it('says that the device is lost, keeps wishes back, and is live again when it is back with '
    + 'what it kept', async () => {
    const amp = await device()
    const l = link(() => amp.address)
    await live(l)
    await l.made.wish('/outputs/1/mute', true)
    amp.close()
    await vi.waitFor(() => expect(l.made.state).toBe('lost'))
    expect(await l.made.wish('/outputs/1/gain', -2)).toMatchObject({
      ok: false,
      why: expect.stringContaining('draft'),
    })
    await device(amp.at, amp.port)
    await live(l)
    expect(l.held()).toMatchObject({ '/outputs/1/mute': true })
    expect(l.states).toEqual(expect.arrayContaining(['live', 'lost']))
  })
  it('40 quick turns of a knob at the device end in its last value, in their order, however slowly they '
    + 'are kept', async () => {
    const amp = await device()
    const hand = link(() => amp.address)
    const watching = link(() => amp.address, 15)
    await Promise.all([live(hand), live(watching)])
    for (let n = 1; n <= 40; n++) await hand.made.wish('/outputs/0/gain', -n)
    await vi.waitFor(() => expect(watching.order).toHaveLength(40))
    expect(watching.order).toEqual(Array.from({ length: 40 }, (_, k) => -k - 1))
  })
  it('a value that is written while the device is read again is newer than what was read, in whichever piece they come',
    async () => {
      for (const together of [true, false]) {
        let described = 0
        let waiting: string | null = null
        const address = await stranger(answering((socket, { id, op, values }) => {
          if (op === 'describe' && ++described > 1) {
            const settings = { '/outputs/0/gain': -17.5 }
            waiting = `${JSON.stringify({ id, capability: amplifier.capability, settings })}\n`
            if (together) return true
            socket.write(waiting)
            waiting = null
            return true
          }
          if (op !== 'set' || waiting === null) return false
          socket.write(`${waiting}${JSON.stringify({ id, values })}\n`)
          return true
        }))
        const l = link(() => address)
        await live(l)
        const compared = l.made.compare()
        await vi.waitFor(() => expect(described).toBe(2))
        const sent = await l.made.wish('/outputs/0/gain', -8.5)
        await compared
        expect(sent).toEqual({ ok: true, value: -8.5 })
        await vi.waitFor(() => expect(l.order).toEqual([-8.5]))
        expect(l.held()['/outputs/0/gain']).toBe(-8.5)
      }
    })
  it('a value that is written while the device is read again is newer, however much is told before it',
    async () => {
      for (const turns of [0, 1, 2, 3, 4, 5, 6]) {
        let described = 0
        let waiting: string | null = null
        const other = JSON.stringify({ event: 'changed', values: [['/outputs/1/gain', -3]] })
        const address = await stranger(answering((socket, { id, op, values }) => {
          if (op === 'describe' && ++described > 1) {
            const settings = { '/outputs/0/gain': -17.5 }
            waiting = `${JSON.stringify({ id, capability: amplifier.capability, settings })}\n`
            return true
          }
          if (op !== 'set' || waiting === null) return false
          socket.write(`${`${other}\n`.repeat(450)}${waiting}`)
          const answer = (left: number) => {
            if (left) setImmediate(answer, left - 1)
            else socket.write(`${JSON.stringify({ id, values })}\n`)
          }
          answer(turns)
          return true
        }))
        const l = link(() => address)
        await live(l)
        const compared = l.made.compare()
        await vi.waitFor(() => expect(described).toBe(2))
        expect(await l.made.wish('/outputs/0/gain', -8.5)).toEqual({ ok: true, value: -8.5 })
        await compared
        expect(l.held()['/outputs/0/gain'], `answered ${turns} turns later`).toBe(-8.5)
      }
    })
  it('a change at the device that crosses a write is kept in the device’s order: both ends agree', async () => {
    // the device takes the write, and then a hand turns the same knob, before the answer is out
    const address = await stranger(
      answering((socket, { id, op, values }) => {
        if (op !== 'set') return false
        socket.write(`${JSON.stringify({ event: 'changed', values: [['/outputs/0/gain', -20]] })}\n`)
        socket.write(`${JSON.stringify({ id, values })}\n`)
        socket.write(`${JSON.stringify({ event: 'changed', values: [['/outputs/0/gain', -8]] })}\n`)
        return true
      }),
    )
    const l = link(() => address, 5)
    await live(l)
    await l.made.wish('/outputs/0/gain', -3)
    await vi.waitFor(() => expect(l.order).toEqual([-20, -3, -8]))
    expect(l.held()).toEqual({ '/outputs/0/gain': -8 })
  })
  it('wishes of one parameter that wait are sent as the newest only, many as one message', async () => {
    const messages: unknown[][] = []
    let release: (() => void) | null = null
    const address = await stranger(
      answering((socket, { id, op, values }) => {
        if (op !== 'set') return false
        messages.push(values as unknown[])
        const answer = () => void socket.write(`${JSON.stringify({ id, values })}\n`)
        if (messages.length === 1) release = answer
        else answer()
        return true
      }),
    )
    const l = link(() => address)
    await live(l)
    const first = l.made.wish('/outputs/0/gain', -1)
    await vi.waitFor(() => expect(release).not.toBeNull())
    const later = [-2, -3, -4].map(v => l.made.wish('/outputs/0/gain', v))
    const other = l.made.wish('/outputs/1/gain', -9)
    release!()
    expect((await Promise.all([first, ...later, other])).every(o => o.ok)).toBe(true)
    expect(messages).toEqual([
      [['/outputs/0/gain', -1]],
      [
        ['/outputs/0/gain', -4],
        ['/outputs/1/gain', -9],
      ],
    ])
  })
  it('a level rises by its ramp, whose values are no news; a newer wish ends it', async () => {
    const d = await device()
    const l = link(() => d.address, 5)
    await live(l)
    const path = '/outputs/0/gain'
    await l.made.wish(path, -40)
    expect(await l.made.wish(path, -10, [-30, -20])).toEqual({ ok: true, value: -10 })
    expect(l.order.slice(-2)).toEqual([-40, -10])
    const up = l.made.wish(path, 0, [-8, -6, -4, -2])
    const down = l.made.wish(path, -60)
    // both tell what the device holds in the end
    expect(await Promise.all([up, down])).toEqual([{ ok: true, value: -60 }, { ok: true, value: -60 }])
    expect(l.held()[path]).toBe(-60)
    expect((JSON.parse(readFileSync(d.file, 'utf8')) as { settings: Settings }).settings[path]).toBe(-60)
  })
  it('a level that is read on its way up is told to be passing until the device confirms where it leads', async () => {
    const messages: unknown[] = []
    const release: (() => void)[] = []
    const path = '/outputs/0/gain'
    const address = await stranger(answering((socket, { id, op, values }) => {
      if (op === 'describe') {
        const settings = { [path]: -20 }
        socket.write(`${JSON.stringify({ id, capability: amplifier.capability, settings })}\n`)
      }
      if (op !== 'set') return op === 'describe'
      messages.push(values)
      release.push(() => socket.write(`${JSON.stringify({ id, values })}\n`))
      return true
    }))
    const l = link(() => address)
    await live(l)
    const up = l.made.wish(path, -10, [-20])
    for (const step of [1, 2]) {
      await vi.waitFor(() => expect(messages).toHaveLength(step))
      await l.made.compare()
      release[step - 1]!()
    }
    expect(await up).toEqual({ ok: true, value: -10 })
    await l.made.compare()
    expect(l.passed).toEqual([[], [path], [path], []])
  })
  it('a device that floods holds up nobody: its 30,000 lines are kept, and timers run meanwhile', async () => {
    const count = 30_000
    const address = await stranger(
      answering((socket, { id, op }) => {
        if (op !== 'describe') return false
        socket.write(`${JSON.stringify({ id, capability: amplifier.capability, settings: {} })}\n`)
        const line = (n: number) =>
          `${JSON.stringify({ event: 'changed', values: [['/outputs/0/gain', -(n % 50)]] })}\n`
        socket.write(Array.from({ length: count }, (_, n) => line(n)).join(''))
        return true
      }),
    )
    const l = link(() => address)
    let turns = 0
    const timer = setInterval(() => turns++, 1)
    ends.push(() => clearInterval(timer))
    await live(l)
    await vi.waitFor(() => expect(l.order).toHaveLength(count), { timeout: 30_000 })
    expect(l.held()['/outputs/0/gain']).toBe(-((count - 1) % 50))
    expect(turns).toBeGreaterThan(10)
  })
  it('a device that takes wishes and never answers is given up, and the wish says so', async () => {
    const address = await stranger(answering((_, { op }) => op === 'set'))
    const l = link(() => address)
    await live(l)
    expect(await l.made.wish('/outputs/0/gain', -3)).toMatchObject({
      ok: false,
      why: expect.stringContaining('draft'),
    })
    expect(l.states).toContain('lost')
  })
  it.each<[string, (socket: Socket) => void, RegExp]>([
    ['garbage', s => void s.write('\u0000\u0001 not json\n'), /not JSON/],
    ['silence', () => {}, /does not answer/],
    ['a closed door', s => s.destroy(), /closed the connection|ECONNRESET|EPIPE/],
    ['a line without end', s => void s.write('x'.repeat(5 * 1024 * 1024)), /line without end/],
    [
      'a wrong description',
      s => s.on('data', () => s.write('{"id":1,"capability":{},"settings":{}}\n')),
      /Invalid/,
    ],
  ])('meets %s with a reason and goes on trying', async (_, behave, why) => {
    const address = await stranger(behave)
    const l = link(() => address)
    await vi.waitFor(() => expect(l.made.reason).toMatch(why), { timeout: 10_000 })
    expect(l.made.state).toBe('searching')
  })
  it('has one connection at a time, whatever fails while the next is opened', async () => {
    const opening: (() => void)[] = []
    const closed: boolean[] = []
    const tellers: ((told: readonly Told[]) => void)[] = []
    const driver: DeviceDriver = (_, events) => new Promise((resolve) => {
      const n = opening.length
      closed[n] = false
      tellers[n] = events.held
      const close = () => void (closed[n] = true)
      const read = async () => ({ capability: amplifier.capability, settings: {}, serial: null })
      opening.push(() => resolve({ read, write: async () => [], ping: async () => {}, close }))
      losers.push(events.lost)
    })
    const losers: ((why: string) => void)[] = []
    const kept: unknown[] = []
    let refuse = (_: Error) => {}
    const made = new Link(driver, () => 'somewhere', {
      state: () => {},
      read: async () => {},
      held: told => told[0]!.value === 1
        ? new Promise((_, reject) => (refuse = reject))
        : Promise.resolve(void kept.push(...told.map(t => t.value))),
    })
    ends.push(() => made.stop())
    opening[0]!()
    await vi.waitFor(() => expect(made.state).toBe('live'))
    const gain = (value: number): Told[] => [{ path: '/outputs/0/gain', value, by: 'device' }]
    tellers[0]!(gain(1))
    losers[0]!('Pulled out')
    await vi.waitFor(() => expect(opening.length).toBe(2))
    refuse(new Error('The database is away'))
    await vi.waitFor(() => expect(opening.length).toBe(3))
    for (const open of opening.slice(1)) open()
    await vi.waitFor(() => expect(made.state).toBe('live'))
    expect(closed).toEqual([true, true, false])
    tellers[1]!(gain(2))
    tellers[2]!(gain(3))
    await vi.waitFor(() => expect(kept).toEqual([3]))
  })
  it('a wish to a link that was ended is answered', async () => {
    const amp = await device()
    const l = link(() => amp.address)
    await live(l)
    l.made.stop()
    expect(await l.made.wish('/outputs/0/gain', -3)).toMatchObject({ ok: false })
  })
  it('waits for an address', async () => {
    const l = link(() => null)
    await vi.waitFor(() => expect(l.made.reason).toMatch(/no address/))
  })
})

describe('the simulated device', () => {
  const talk = (port: number, ...messages: unknown[]) =>
    new Promise<Record<string, unknown>[]>((resolve, reject) => {
      let text = ''
      const lines = messages.map(m => (typeof m === 'string' ? m : JSON.stringify(m)))
      const socket = connect(port, '127.0.0.1', () => socket.write(`${lines.join('\n')}\n`))
      socket.setTimeout(5000, () => reject(new Error('no answer')))
      socket.on('data', (d) => {
        text += d
        const got = text.split('\n').slice(0, -1)
        if (got.length < lines.length) return
        socket.destroy()
        resolve(got.map(l => JSON.parse(l) as Record<string, unknown>))
      })
      socket.on('error', reject)
    })
  const set = (path: string, value: unknown) => ({ id: 1, op: 'set', values: [[path, value]] })
  it('answers nonsense with a sentence and keeps running', async () => {
    const amp = await device()
    const answers = await talk(
      amp.port,
      'hello',
      { id: 1, op: 'dance' },
      { id: 2, op: 'set', values: 3 },
      [],
      'null',
      { id: 3, op: 'ping' },
    )
    expect(answers.slice(0, 5).every(a => typeof a.error === 'string')).toBe(true)
    expect(answers[5]).toEqual({ id: 3 })
  })
  it('keeps its settings over a power cut, and puts damaged ones aside', async () => {
    const amp = await device()
    await talk(amp.port, set('/outputs/0/delay', 0.01))
    amp.close()
    expect(JSON.parse(readFileSync(amp.file, 'utf8'))).toEqual({
      version: 2,
      settings: { '/outputs/0/delay': 0.01 },
    })
    writeFileSync(amp.file, '{"version":2,"set')
    const quiet = vi.spyOn(console, 'error').mockImplementation(() => {})
    const again = await device(amp.at)
    const [answer] = await talk(again.port, { id: 1, op: 'describe' })
    quiet.mockRestore()
    expect(answer!.settings).toEqual(amplifier.delivered)
    expect(readFileSync(`${amp.file}.damaged`, 'utf8')).toContain('{"version":2,"set')
  })
  it('has a copy for each rack, apart from every other', async () => {
    const amp = await device()
    await talk(amp.port, { id: 0, op: 'rack', rack: 'ann' }, set('/outputs/0/gain', -9))
    const [, anns] = await talk(amp.port, { id: 0, op: 'rack', rack: 'ann' }, { id: 1, op: 'describe' })
    const [, bens] = await talk(amp.port, { id: 0, op: 'rack', rack: 'ben' }, { id: 1, op: 'describe' })
    expect([anns!.settings, bens!.settings]).toEqual([{ '/outputs/0/gain': -9 }, {}])
  })
  it('in a rack of the first version stands as it stood: as delivered then, or as it kept it', async () => {
    const at = mkdtempSync(join(tmpdir(), 'kovrin-device-'))
    const told = async () => {
      const amp = await runDevice(ropewalkDevices.find(d => d.id === 'amp-b')!, at)
      const [, answer] = await talk(amp.port, { id: 0, op: 'rack', rack: 'first' }, { id: 1, op: 'describe' })
      amp.close()
      return answer!.settings
    }
    expect(await told()).toEqual({ '/outputs/1/gain': -3 })
    writeFileSync(join(at, 'amp-b.json'), JSON.stringify({ version: 2, settings: { '/outputs/0/gain': -12 } }))
    expect(await told()).toEqual({ '/outputs/0/gain': -12 })
  })
  it('with a full disk refuses, and holds what it held', async () => {
    const amp = await device()
    await talk(amp.port, set('/outputs/0/gain', -4))
    rmSync(amp.at, { recursive: true })
    writeFileSync(amp.at, 'no folder: nothing can be written here')
    const [refused] = await talk(amp.port, set('/outputs/0/gain', -20))
    expect(refused!.error).toEqual(expect.any(String))
    const [answer] = await talk(amp.port, { id: 1, op: 'describe' })
    expect(answer!.settings).toEqual({ '/outputs/0/gain': -4 })
  })
})
