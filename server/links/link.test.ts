import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { connect, createServer, type Server, type Socket } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { runDevice } from '../../standins/device/device'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import { compact, noHousekeeping, type Settings } from '../../core/rig'
import { foreignDevice, levelPath, type Manners } from '../testing/ocaDevice'
import type { DeviceDriver, Told } from './driver'
import { Link } from './link'
import { ocaDriver } from './ocaDriver'

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
function link(address: () => Promise<string | null>, slowly = 0) {
  const states: string[] = []
  let held: Settings = {}
  const order: unknown[] = []
  const passed: string[][] = []
  const made = new Link(ocaDriver, address, {
    state: (state) => {
      states.push(state)
    },
    housekeeping: () => {},
    read: async ({ settings }, passing) => {
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
/** A device that nobody has seen before. */
async function foreign(manners: Manners = {}) {
  const device = await foreignDevice(manners)
  ends.push(device.close)
  return device
}

describe('a link to a device', () => {
  it('reads everything, writes what the device can hold, and hears what others change', async () => {
    const amp = await device()
    const a = link(async () => amp.address)
    const b = link(async () => amp.address)
    await Promise.all([live(a), live(b)])
    expect(compact(amplifier.capability, a.held())).toEqual(amplifier.delivered)
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
    const l = link(async () => amp.address)
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
    const hand = link(async () => amp.address)
    const watching = link(async () => amp.address, 15)
    await Promise.all([live(hand), live(watching)])
    for (let n = 1; n <= 40; n++) await hand.made.wish('/outputs/0/gain', -n)
    await vi.waitFor(() => expect(watching.order).toHaveLength(40))
    expect(watching.order).toEqual(Array.from({ length: 40 }, (_, k) => -k - 1))
  })
  it('a value that is written while the device is read again is newer than what was read', async () => {
    let hold: Promise<void> | undefined
    let release = () => {}
    const device = await foreign({ before: ({ name }) => (name === 'GetGain' ? hold : undefined) })
    const l = link(async () => device.address)
    await live(l)
    hold = new Promise(done => (release = done))
    device.gain = -17.5
    const compared = l.made.compare()
    const sent = l.made.wish(levelPath, -8.5)
    release()
    hold = undefined
    expect(await sent).toEqual({ ok: true, value: -8.5 })
    await compared
    expect(l.held()[levelPath]).toBe(-8.5)
    expect(device.gain).toBe(-8.5)
  })
  it('1,000 turns at the front while the same level is written end alike on both sides', async () => {
    const device = await foreign({
      before: ({ name }, at) => {
        if (name !== 'SetGain') return undefined
        for (let n = 0; n < 10; n++) at.tell(at.gain = -Math.floor(60 * Math.random()))
        return undefined
      },
      after: ({ name }, at) => {
        if (name === 'SetGain' && Math.random() < 0.5) at.tell(at.gain = -Math.floor(60 * Math.random()))
      },
    })
    const l = link(async () => device.address, 1)
    await live(l)
    for (let n = 0; n < 100; n++) await l.made.wish(levelPath, -(n % 50))
    await vi.waitFor(() => expect(l.held()[levelPath]).toBe(device.gain))
  })
  it('a change at the device that crosses a write is kept in the device’s order: both ends agree', async () => {
    // a hand turns the level before the device takes the write, and again before the answer is out
    const device = await foreign({
      before: ({ name }, at) => {
        if (name === 'SetGain') at.tell(at.gain = -20)
        return undefined
      },
      after: ({ name }, at) => {
        if (name === 'SetGain') at.tell(at.gain = -8)
      },
    })
    const l = link(async () => device.address, 5)
    await live(l)
    await l.made.wish(levelPath, -3)
    await vi.waitFor(() => expect(l.order).toEqual([-20, -3, -8]))
    expect(l.held()[levelPath]).toBe(-8)
  })
  it('a device that does not tell what was written is read back', async () => {
    const device = await foreign({ isMute: true, after: ({ name }, at) => {
      if (name === 'SetGain') at.gain = Math.round(at.gain)
    } })
    const l = link(async () => device.address)
    await live(l)
    expect(await l.made.wish(levelPath, -3.4)).toEqual({ ok: true, value: -3 })
    expect(l.order).toEqual([-3])
  })
  it('wishes of one parameter that wait are sent as the newest only', async () => {
    let release = () => {}
    const first = new Promise<void>(done => (release = done))
    const device = await foreign({ before: ({ name, values }) =>
      (name === 'SetGain' && values[0] === -1 ? first : undefined) })
    const l = link(async () => device.address)
    await live(l)
    const one = l.made.wish(levelPath, -1)
    await vi.waitFor(() => expect(device.calls.some(c => c.name === 'SetGain')).toBe(true))
    const later = [-2, -3, -4].map(value => l.made.wish(levelPath, value))
    const other = l.made.wish('/main/Mute', true)
    release()
    expect((await Promise.all([one, ...later, other])).every(o => o.ok)).toBe(true)
    const set = device.calls.filter(c => c.name.startsWith('Set')).map(c => c.values[0])
    expect(set).toEqual([-1, -4, 1])
  })
  it('a level rises by its ramp, whose values are no news; a newer wish ends it', async () => {
    const d = await device()
    const l = link(async () => d.address, 5)
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
    const releases: (() => void)[] = []
    const device = await foreign({ before: ({ name }) => {
      if (name !== 'SetGain') return undefined
      return new Promise<void>(done => releases.push(done))
    } })
    device.gain = -30
    const l = link(async () => device.address)
    await live(l)
    const up = l.made.wish(levelPath, -10, [-20])
    for (const step of [1, 2]) {
      await vi.waitFor(() => expect(releases).toHaveLength(step))
      const compared = l.made.compare()
      releases[step - 1]!()
      await compared
    }
    expect(await up).toEqual({ ok: true, value: -10 })
    await l.made.compare()
    expect(l.passed.slice(0, 2)).toEqual([[], [levelPath]])
    expect(l.passed.at(-1)).toEqual([])
  })
  it('a device that floods holds up nobody: its 30,000 changes are kept, and timers run meanwhile', async () => {
    const count = 30_000
    const device = await foreign()
    const l = link(async () => device.address)
    await live(l)
    let turns = 0
    const timer = setInterval(() => turns++, 1)
    ends.push(() => clearInterval(timer))
    for (let n = 1; n <= count; n++) device.tell(-1 - (n % 50))
    await vi.waitFor(() => expect(l.order).toHaveLength(count), { timeout: 30_000 })
    expect(l.held()[levelPath]).toBe(-1 - (count % 50))
    expect(turns).toBeGreaterThan(10)
  })
  it('a device that takes wishes and never answers is given up, and the wish says so', async () => {
    const device = await foreign({ before: ({ name }) => (name === 'SetGain' ? new Promise(() => {}) : undefined) })
    const l = link(async () => device.address)
    await live(l)
    expect(await l.made.wish(levelPath, -3)).toMatchObject({ ok: false, why: expect.stringContaining('draft') })
    expect(l.states).toContain('lost')
  })
  it('a refusal is told by its reason, and what the device holds is known', async () => {
    const device = await foreign({ before: ({ name }) => (name === 'SetGain' ? 3 : undefined) })
    device.gain = -6
    const l = link(async () => device.address)
    await live(l)
    expect(await l.made.wish(levelPath, -3)).toEqual({
      ok: false, why: 'The device refused: Device gain: somebody else has locked it',
    })
    expect(l.held()[levelPath]).toBe(-6)
  })
  it.each<[string, (socket: Socket) => void, RegExp]>([
    ['garbage', s => void s.write('\u0000\u0001 not of this kind\n'), /no OCP\.1/],
    ['silence', () => {}, /does not answer|silent/],
    ['a closed door', s => s.destroy(), /closed the connection|ECONNRESET|EPIPE/],
    ['a message without end', s => void s.write(Buffer.from('3b0001ffffffff010001', 'hex')), /too long/],
    ['a message cut short', s => void s.write(Buffer.from('3b00010000000c030001000000', 'hex')), /not understood/],
  ])('meets %s with a reason and goes on trying', async (_, behave, why) => {
    const address = await stranger(behave)
    const l = link(async () => address)
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
      const told = { capability: amplifier.capability, settings: {}, serial: null, housekeeping: noHousekeeping }
      const rest = { write: async () => [], act: async () => null, presetAt: async () => null, ping: async () => {} }
      opening.push(() => resolve({ read: async () => told, ...rest, close }))
      losers.push(events.lost)
    })
    const losers: ((why: string) => void)[] = []
    const kept: unknown[] = []
    let refuse = (_: Error) => {}
    const made = new Link(driver, async () => 'somewhere', {
      state: () => {},
      read: async () => {},
      housekeeping: () => {},
      held: told => told[0]!.value === 1
        ? new Promise((_, reject) => (refuse = reject))
        : Promise.resolve(void kept.push(...told.map(t => t.value))),
    })
    ends.push(() => made.stop())
    await vi.waitFor(() => expect(opening.length).toBe(1))
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
    const l = link(async () => amp.address)
    await live(l)
    l.made.stop()
    expect(await l.made.wish('/outputs/0/gain', -3)).toMatchObject({ ok: false })
  })
  it('waits for an address', async () => {
    const l = link(async () => null)
    await vi.waitFor(() => expect(l.made.reason).toMatch(/no address/))
  })
})

describe('the simulated device', () => {
  const rackOf = async (port: number) => {
    const l = link(async () => `127.0.0.1:${port}`)
    await live(l)
    return l
  }
  it('closes the link on nonsense and keeps running', async () => {
    const amp = await device()
    for (const bytes of [Buffer.from('hello, device'), Buffer.from('3b0001ffffffff010001', 'hex')]) {
      await new Promise<void>((done) => {
        const socket = connect(amp.port, '127.0.0.1', () => socket.write(bytes))
        socket.on('close', () => done())
      })
    }
    expect((await rackOf(amp.port)).held()).toMatchObject(amplifier.delivered)
  })
  it('keeps its settings over a power cut, and puts damaged ones aside', async () => {
    const amp = await device()
    await amp.turn('default', '/outputs/0/delay', 0.01)
    amp.close()
    expect(JSON.parse(readFileSync(amp.file, 'utf8'))).toEqual({
      version: 2,
      settings: { '/outputs/0/delay': 0.01 },
    })
    writeFileSync(amp.file, '{"version":2,"set')
    const quiet = vi.spyOn(console, 'error').mockImplementation(() => {})
    const again = await device(amp.at)
    quiet.mockRestore()
    expect(await again.settings('default')).toEqual(amplifier.delivered)
    expect(readFileSync(`${amp.file}.damaged`, 'utf8')).toContain('{"version":2,"set')
  })
  it('has a copy for each rack, apart from every other, with a number of its own', async () => {
    const amp = await device()
    const [ann, ben] = [await rackOf(await amp.rack('ann')), await rackOf(await amp.rack('ben'))]
    await ann.made.wish('/outputs/0/gain', -9)
    expect([await amp.settings('ann'), await amp.settings('ben')]).toEqual([{ '/outputs/0/gain': -9 }, {}])
    expect(ben.held()['/outputs/0/gain']).toBe(0)
  })
  it('in a rack of the first version stands as it stood: as delivered then, or as it kept it', async () => {
    const at = mkdtempSync(join(tmpdir(), 'kovrin-device-'))
    const told = async () => {
      const amp = await runDevice(ropewalkDevices.find(d => d.id === 'amp-b')!, at)
      const settings = await amp.settings('first')
      amp.close()
      return settings
    }
    expect(await told()).toEqual({ '/outputs/1/gain': -3 })
    writeFileSync(join(at, 'amp-b.json'), JSON.stringify({ version: 2, settings: { '/outputs/0/gain': -12 } }))
    expect(await told()).toEqual({ '/outputs/0/gain': -12 })
  })
  it('with a full disk refuses, and holds what it held', async () => {
    const amp = await device()
    const l = await rackOf(amp.port)
    await l.made.wish('/outputs/0/gain', -4)
    rmSync(amp.at, { recursive: true })
    writeFileSync(amp.at, 'no folder: nothing can be written here')
    expect(await l.made.wish('/outputs/0/gain', -20))
      .toMatchObject({ ok: false, why: expect.stringContaining('failed') })
    expect(await amp.settings('default')).toEqual({ '/outputs/0/gain': -4 })
    expect(l.held()['/outputs/0/gain']).toBe(-4)
  })
})
