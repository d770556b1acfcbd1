import { describe, expect, it } from 'vitest'
import { divide, logGrid } from '../dsp'
import { outputsOf, pathResponse, valueAt } from '../rig'
import { feed, rigOf, routed, tuned } from '../rig/testRig'
import { freeBands, ownDelay, settingsFor, showAct, withSettings, type Act, type Reach } from './acts'
import { variantOf, variantsFor } from './variants'

const top = { ...rigOf(tuned) }
const reach = (rig = top, source = 'top', other = 'pair'): Reach =>
  ({ rig, from: feed, name: source, outputs: outputsOf(rig.wiring, source), others: outputsOf(rig.wiring, other) })
const value = (rig = top, path: string) => valueAt(rig.devices.dsp!.capability, rig.devices.dsp!.settings, path)
const done = (act: Act, of = reach()) => withSettings(of.rig, settingsFor(act, of))

describe('what is done to a source as a whole', () => {
  it('goes to blocks of its own, as the device keeps it', () => {
    expect(ownDelay(reach())).toBe(0.005)
    expect(value(done({ kind: 'delay', by: 0.002 }), '/outputs/1/delay')).toBeCloseTo(0.007, 4)
    expect(value(done({ kind: 'invert' }), '/outputs/1/polarity')).toBe('normal')
    expect(value(done({ kind: 'gain', by: -2 }), '/outputs/1/gain')).toBeCloseTo(-6, 6)
    // all outputs alike, and nothing of another source
    const pair = reach(rigOf(routed), 'pair', 'top')
    expect(settingsFor({ kind: 'delay', by: 0.001 }, pair).map(s => s.path))
      .toEqual(['/outputs/0/delay', '/outputs/2/delay'])
  })
  it('is refused in words where it cannot be', () => {
    expect(() => settingsFor({ kind: 'delay', by: 1 }, reach())).toThrow(/100\.00 ms/)
    expect(() => settingsFor({ kind: 'delay', by: -0.006 }, reach())).toThrow(RangeError)
    const shared = { ...reach(), others: outputsOf(top.wiring, 'top') }
    expect(() => settingsFor({ kind: 'delay', by: 0.001 }, shared)).toThrow('no delay of its own')
  })
  it('puts filters into bands that do nothing yet, and says when there are not enough', () => {
    const filters = [{ kind: 'peaking', frequency: 500, gain: -3, q: 1 }] as const
    expect(freeBands(reach())[0]).toHaveLength(3)
    const next = done({ kind: 'filters', filters })
    expect(value(next, '/outputs/1/eq/0')).toMatchObject({ on: true, frequency: 500, gain: -3 })
    expect(value(next, '/outputs/1/eq/2')).toEqual(value(top, '/outputs/1/eq/2'))
    expect(() => settingsFor({ kind: 'filters', filters: Array.from({ length: 4 }, () => filters[0]) }, reach()))
      .toThrow('3 free EQ bands, 4 are needed')
  })
  it('is said in few words', () => {
    expect(showAct({ kind: 'delay', by: -0.002 })).toBe('2.00 ms earlier')
    expect(showAct({ kind: 'gain', by: 3 })).toBe('+3.0 dB')
    const pass = { on: true, family: 'linkwitz-riley', order: 4, frequency: 100 } as const
    expect(showAct({ kind: 'pass', side: 'low', pass })).toBe('low-pass Linkwitz–Riley 24 dB an octave at 100 Hz')
  })
})

describe('filters that a search tries', () => {
  const frequencies = logGrid(12, 40, 400)
  const pass = { on: true, family: 'butterworth', order: 3, frequency: 150 } as const
  it('do to a source what the path with them does to it', () => {
    const acts = [{ of: 'move', act: { kind: 'pass', side: 'high', pass } }] as const
    const { move, reference } = variantOf('x', [...acts], { move: reach(), reference: reach() }, frequencies)
    const [to] = outputsOf(top.wiring, 'top')
    const rig = done(acts[0].act)
    const ratio = divide(pathResponse(rig, feed, to!, frequencies), pathResponse(top, feed, to!, frequencies))
    expect(reference).toBeUndefined()
    frequencies.forEach((_, k) => {
      expect(move!.re[k]).toBeCloseTo(ratio.re[k]!, 9)
      expect(move!.im[k]).toBeCloseTo(ratio.im[k]!, 9)
    })
  })
  it('are those that the device has, after what is set now', () => {
    const wish = {
      corners: [80, 120],
      kinds: [{ family: 'linkwitz-riley', order: 4 }, { family: 'bessel', order: 4 }] as const,
      both: false, allPass: [60], q: [1],
    }
    const found = variantsFor(wish, { move: reach(), reference: reach() }, frequencies)
    // no Bessel and no all-pass in this device
    expect(found.map(v => v.name)).toEqual([
      null,
      'low-pass Linkwitz–Riley 24 dB an octave at 80 Hz',
      'low-pass Linkwitz–Riley 24 dB an octave at 120 Hz',
    ])
  })
})
