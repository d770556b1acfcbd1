import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import { Capability, parametersOf } from '../../rig'
import { knownClassOf } from '../ocp1'
import type { Ask } from './members'
import { OcaRefused, ocaStatus } from './status'
import { walk } from './walk'

/** An object of a device that somebody else made: its class, its role, and what it answers. */
interface Made {
  id: string
  role: string
  members?: Record<number, Made>
  answers?: Record<string, readonly unknown[]>
}
const level = { GetGain: [-3, -80, 12] }
const filter = {
  GetFrequency: [1000, 20, 20_000], GetShape: [1], GetWidthParameter: [1.4, 0.1, 40], GetInbandGain: [0, -15, 15],
}
const made = (id: string, role: string, answers: Made['answers'] = {}): Made => ({ id, role, answers })
const block = (role: string, members: Record<number, Made>, answers: Made['answers'] = {}): Made =>
  ({ id: '1.1.3', role, members, answers })

/** Asks a device that answers no more than it was given. */
function asking(root: Made): Ask {
  const all = new Map<number, Made>()
  const put = (number: number, object: Made) => {
    if (all.has(number)) return
    all.set(number, object)
    for (const [n, member] of Object.entries(object.members ?? {})) put(Number(n), member)
  }
  put(100, root)
  return async (number, method) => {
    const object = all.get(number)
    if (!object) throw new OcaRefused(ocaStatus.badObject)
    const { methods } = knownClassOf(object.id.split('.').map(Number))!
    const name = Object.entries(methods).find(([, m]) => m.level === method.level && m.index === method.index)?.[0]
    if (name === 'GetRole') return [object.role]
    if (name === 'GetMembers') {
      return [Object.entries(object.members ?? {}).map(([n, { id }]) => ({
        object: Number(n), classIdentification: { classId: id.split('.').map(Number), classVersion: 2 },
      }))]
    }
    const answer = object.answers?.[name!]
    if (!answer) throw new OcaRefused(ocaStatus.notImplemented)
    return answer
  }
}
const identity = { serial: null, name: null, maker: 'Tallow Quay', model: 'Rack one', firmware: null }
async function walked(root: Made) {
  const { capability, bounds } = await walk(asking(root), identity)
  const read = v.parse(Capability, capability)
  // every parameter has an object behind it, and no object a parameter that is not there
  expect(new Set(bounds.map(b => b.path))).toEqual(new Set(parametersOf(read).keys()))
  return read
}
const paths = (capability: Capability) => [...parametersOf(capability).keys()]

describe('a device that nobody has seen before', () => {
  it('with all its objects in one place is one channel', async () => {
    const capability = await walked(block('', {
      5001: made('1.1.1.5', 'Gain', level), 5002: made('1.1.1.2', 'Mute', { GetState: [2] }),
      5003: made('1.1.1.7', 'Delay', { GetDelayTime: [0, 0, 0.5] }),
    }))
    expect(paths(capability)).toEqual(['/main/Gain', '/main/Mute', '/main/Delay'])
    expect(capability.strips[0]!.from).toEqual({ untold: true })
    expect(capability.assumed).toEqual(['sampleRate', 'latency'])
  })
  it('with a block a channel, and its EQ in a block of that, has those channels', async () => {
    const channel = (n: number) => block(`Channel ${n}`, {
      [4100 * n]: made('1.1.1.5', 'Level', level),
      [4100 * n + 1]: block('EQ', {
        [4100 * n + 2]: made('1.1.1.10', 'Low', filter), [4100 * n + 3]: made('1.1.1.10', 'High', filter),
      }),
    })
    const master = made('1.1.1.5', 'Master', level)
    const capability = await walked(block('', { 4097: channel(1), 4098: channel(2), 4099: master }))
    expect(capability.strips.map(s => s.id)).toEqual(['main', 'Channel-1', 'Channel-2'])
    expect(paths(capability)).toEqual([
      '/main/Master', '/Channel-1/Level', '/Channel-1/EQ/0', '/Channel-1/EQ/1',
      '/Channel-2/Level', '/Channel-2/EQ/0', '/Channel-2/EQ/1',
    ])
    expect(parametersOf(capability).get('/main/Master')!.name).toBe('Device master')
  })
  it('tells where signals go by its ways, and its rate by its clock', async () => {
    const rate = { nominalRate: 48_000, pullRange: 0, accuracy: 0, jitterMax: 0 }
    const port = (owner: number, mode: 1 | 2, index = 1) => ({ owner, id: { mode, index }, name: '' })
    const way = (from: number, to: number, index = 1) => ({ sourcePort: port(from, 2), sinkPort: port(to, 1, index) })
    const capability = await walked(block('', {
      5000: made('1.2.15', 'Clock', { GetCurrentRate: [rate, 0] }),
      5001: made('1.1.1.18', 'In'), 5002: made('1.1.1.19', 'Out'),
      5003: block('A', { 5004: made('1.1.1.5', 'Level', level) }),
      5005: block('B', { 5006: made('1.1.1.5', 'Level', level) }),
    }, { GetSignalPaths: [[[1, way(5001, 5003)], [2, way(5004, 5005)], [3, way(5005, 5002)]]], GetLatency: [0.001] }))
    expect(capability.strips.map(s => s.from)).toEqual([{ port: 0 }, { strip: 'A' }])
    expect(capability.outputs).toEqual([{ name: 'Out', kind: 'line', strip: 'B' }])
    expect([capability.sampleRate, capability.latency, capability.assumed]).toEqual([48_000, 0.001, undefined])
  })
  it('keeps what is not understood apart: other classes, no ranges, thresholds of other volts', async () => {
    const capability = await walked(block('', {
      5001: made('1.1.1.5', 'Gain', level),
      5002: made('1.1.1.6', 'Pan', { GetPosition: [0, -1, 1] }),
      5003: made('1.1.1.5', 'Fixed', { GetGain: [0, 0, 0] }),
      5004: made('1.1.1.14', 'Limiter', { GetFunction: [2], GetThreshold: [{ value: 0, ref: 0.775 }, -40, 20] }),
      // Chebyshev is not computed
      5005: made('1.1.1.9', 'Filter', { GetFrequency: [80, 20, 20_000], GetPassband: [1], GetShape: [3] }),
      5006: made('1.1.1.4', 'Scene', { GetPosition: [0, 0, 2], GetPositionNames: [['a', 'b', 'c']] }),
    }))
    expect(paths(capability)).toEqual(['/main/Gain'])
    expect(capability.leftAlone!.map(x => [x.at, x.class])).toEqual([
      ['Pan', 'OcaPanBalance'], ['Fixed', 'OcaGain'], ['Limiter', 'OcaDynamics'], ['Filter', 'OcaFilterClassical'],
      ['Scene', 'OcaSwitch'],
    ])
  })
  it('drives a maker’s own classes as the standard ones above them, and tells roles that are alike apart', async () => {
    const capability = await walked(block('', {
      5001: made('1.1.1.5.65535.1.2.3', 'Gain', level), 5002: made('1.1.1.5', 'Gain', level),
      5003: made('1.1.1.5', '', level),
    }))
    expect(paths(capability)).toEqual(['/main/Gain', '/main/Gain-2', '/main/object-5003'])
  })
  it('a filter that cannot be switched off is off by a shape that does nothing', async () => {
    const { bounds } = await walk(asking(block('', { 5001: made('1.1.1.10', 'Peak', filter) })), identity)
    const [bound] = bounds
    const band = { on: true, type: 'peaking', frequency: 1000, gain: 3, q: 2 }
    expect(bound!.spread(band)).toMatchObject({ Shape: 1, InbandGain: 3 })
    expect(bound!.spread({ ...band, on: false })).toMatchObject({ Shape: 0 })
    const cells = { Frequency: 1000, Shape: 0, WidthParameter: 2, InbandGain: 3 }
    expect(bound!.join(cells, undefined)).toMatchObject({ on: false })
    expect(bound!.properties).not.toContain('Enabled')
  })
  it('that has blocks in a circle is walked to its end', async () => {
    const inner: Made = block('Inner', { 5002: made('1.1.1.5', 'Gain', level) })
    inner.members![5001] = inner
    const capability = await walked(block('', { 5001: inner }))
    expect(paths(capability)).toContain('/Inner/Gain')
  })
})
