import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  entering,
  feedOnly,
  feedToo,
  leaving,
  levelAt,
  louder,
  shiftDelays,
  ownDelays,
  routeTo,
  setDelay,
  soundLevel,
  withValue,
  type SignalPoint,
  type Port,
  type Rig,
} from './index'
import { feed, rigOf, routed, to } from './testRig'

const pair = [{ device: 'amp', channel: 0 }, { device: 'amp', channel: 2 }]
const after = (rig: Rig, edits: readonly { device: string, path: string, value: unknown }[]): Rig => ({
  ...rig,
  devices: edits.reduce((devices, { device, path, value }) => ({
    ...devices,
    [device]: { ...devices[device]!, settings: withValue(devices[device]!.settings, path, value) },
  }), rig.devices),
})

describe('feeding', () => {
  it('feeds one more and leaves what was fed; only this one takes it from all others, silence first', () => {
    const rig = rigOf({ ...routed, '/matrix/1/2': -3 })
    expect(feedToo(rig, feed, pair)).toEqual([
      { device: 'dsp', path: '/matrix/0/0', value: 0 },
      { device: 'dsp', path: '/matrix/0/2', value: 0 },
    ])
    expect(feedOnly(rig, feed, pair)).toEqual([
      { device: 'dsp', path: '/matrix/0/1', value: null },
      { device: 'dsp', path: '/matrix/0/0', value: 0 },
      { device: 'dsp', path: '/matrix/0/2', value: 0 },
    ])
    expect(feedToo(after(rig, feedToo(rig, feed, pair)), feed, pair)).toEqual([])
  })
})

describe('delays of a source’s own', () => {
  const rig = rigOf({ ...routed, '/outputs/0/delay': 0.01, '/outputs/2/delay': 0.003 })
  it('are those behind the point where the sources part', () => {
    const own = ownDelays(rig, feed, pair, [to])!
    expect(own.map(o => o.parameter.path)).toEqual(['/outputs/0/delay', '/outputs/2/delay'])
    expect(ownDelays(rig, feed, [to], [to])).toBeNull()
  })
  it('move the source by just that much, at every output, in the device’s steps', () => {
    fc.assert(fc.property(fc.double({ min: -0.003, max: 0.08, noNaN: true }), (by) => {
      const moved = after(rig, shiftDelays(rig, ownDelays(rig, feed, pair, [to])!, by))
      for (const output of pair) {
        const [was, is] = [rig, moved].map(r => setDelay(r, routeTo(r, feed, output)!)) as [number, number]
        expect(Math.abs(is - was - by)).toBeLessThanOrEqual(0.5 / 96_000 + 1e-12)
      }
      expect(setDelay(moved, routeTo(moved, feed, to)!)).toBe(0)
    }))
  })
  it('say why they cannot: earlier than no delay, later than the device has', () => {
    const own = ownDelays(rig, feed, pair, [to])!
    for (const by of [-0.004, 0.095]) expect(() => shiftDelays(rig, own, by)).toThrow(/delay.*out of range/i)
  })
})

describe('levels on their way', () => {
  const line: Port = { name: 'Line', kind: 'line', fullScale: 6.1518 } // +18 dBu
  const amp: Port = { name: 'Speaker', kind: 'loudspeaker', fullScale: 61.518 }
  const start: SignalPoint = { level: -20, fullScale: 6.1518 }
  it('stand in the unit of their place: dBFS inside, dBu on a line, V at a loudspeaker', () => {
    const inside = louder(entering(start, line), -6)
    expect(levelAt(inside)).toEqual({ value: -26, unit: 'dBFS' })
    // 0 dBu is 0.7746 V RMS (IEC 60268-17: 0.775 V; value from memory)
    expect(levelAt(inside, line)!.value).toBeCloseTo(-8, 2)
    expect(levelAt(inside, line)!.unit).toBe('dBu')
    const driven = entering(leaving(inside, line), { ...line, fullScale: 0.61518 })
    expect(driven.level).toBeCloseTo(-6, 9)
    expect(levelAt(driven, amp)).toEqual({ value: expect.closeTo(61.518 * 10 ** (-6 / 20), 3) as number, unit: 'V' })
  })
  it('are counted from the feed where a full scale is not known, and are silent behind a mute', () => {
    const unknown = entering(start, { name: 'In', kind: 'line' })
    expect(levelAt(louder(unknown, 3), line)).toEqual({ value: -17, unit: 'dB' })
    expect(levelAt(louder(start, null), line)).toBeNull()
  })
  it('become sound by the loudspeaker’s sensitivity: 2.83 V give what the sheet states', () => {
    expect(soundLevel(2.8284, 97)).toBeCloseTo(97, 3)
    expect(soundLevel(28.284, 97)).toBeCloseTo(117, 3)
  })
})
