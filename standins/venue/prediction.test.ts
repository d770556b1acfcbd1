import { describe, expect, it } from 'vitest'
import { dft } from './testSweep'
import { magnitude, type Curve } from '../../core/dsp'
import { smooth } from '../../core/measure'
import { sample } from '../../core/reference/cases'
import { outputsOf, partOf, predict, predictSum, staleness, type Endpoint, type Measured } from '../../core/rig'
import { delivered, edited, positions, soundHall, tuned, tunedHall, wiring, type PluggedRig } from './testHall'

const mix = positions[0]!.place
const from = wiring.feeds.test!.from

/** A kept measurement of a source, or of one of its outputs alone, in the hall as it is. */
const take = (rig: PluggedRig, source: string, only: Endpoint | null = null): Measured => ({
  curve: dft(soundHall, rig, mix),
  delay: 0,
  then: partOf(rig, from, source),
  source,
  only,
})
const level = (curve: Curve, octaves: number) => magnitude(smooth(curve, octaves))
/** Largest difference in dB at 1/12 octave from 40 Hz to 16 kHz, where the level is within `span` of the top. */
function worst(a: Curve, b: Curve, span: number): number {
  const [x, y] = [level(a, 12), level(b, 12)]
  const top = y.reduce((m, v) => Math.max(m, v), -200)
  return x.reduce((most, v, k) => {
    const f = a.frequencies[k]!
    return f < 40 || f > 16_000 || y[k]! < top - span ? most : Math.max(most, Math.abs(v - y[k]!))
  }, 0)
}
const band = (frequency: number, gain: number, q: number) => ({ on: true, type: 'peaking', frequency, gain, q })

describe('a prediction against a new measurement in the hall', () => {
  it('Main L after six edits: within 0.3 dB at 1/12 octave from 40 Hz to 16 kHz', () => {
    const both = [0, 1].flatMap((n): [string, unknown][] => [
      [`/outputs/${n}/eq/1`, band(250, -5, 1.4)],
      [`/outputs/${n}/eq/2`, band(2500, 4, 2)],
      [`/outputs/${n}/eq/3`, band(6300, -6, 1)],
      [`/outputs/${n}/eq/4`, band(100, 3, 3)],
      [`/outputs/${n}/gain`, -2],
      [`/outputs/${n}/delay`, 0.004],
    ])
    const now = edited(delivered, Object.fromEntries(both))
    const before = take(delivered, 'main-l')
    const { settings } = staleness(before.then, now, 'main-l')
    const { curve, unforeseen } = predict(before, now, settings)
    expect(unforeseen.map(m => m.path)).toEqual([])
    expect(worst(curve, dft(soundHall, now, mix), 40)).toBeLessThan(0.3)
  })

  const subs = outputsOf(wiring, 'subs')
  const connected = { '/matrix/0/0': undefined, '/matrix/0/1': undefined, '/matrix/0/4': 0, '/matrix/0/5': 0 }
  const subsOnly = edited(delivered, connected)
  const mutes = subs.map(o => `/outputs/${4 + o.channel}/mute`)
  const edits: [string, Record<string, unknown>][] = [
    ['5 ms', { '/outputs/5/delay': 0.005 }],
    ['polarity inverted', { '/outputs/5/polarity': 'inverted' }],
  ]
  const few = sample(edits, 1)
  it.each(few)('Subs on two outputs, %s on one: from each alone within 0.5 dB, to 20 dB under the top', (_, edit) => {
    const now = edited(subsOnly, edit)
    const truth = dft(soundHall, now, mix)
    const alone = subs.map((output, n) => take(edited(subsOnly, { [mutes[1 - n]!]: true }), 'subs', output))
    expect(worst(predictSum(alone, now, 0), truth, 20)).toBeLessThan(0.5)
    // from a take of both together it cannot be known: that is said, and the curve stays what it was
    const together = take(subsOnly, 'subs')
    const { settings } = staleness(together.then, now, 'subs')
    const told = predict(together, now, settings)
    expect(told.unforeseen.map(m => m.path)).toEqual(Object.keys(edit))
    expect(worst(told.curve, together.curve, 40)).toBeLessThan(1e-6)
  })
})

describe('the tuned hall', () => {
  it.each(['left', 'right'])('the tops (%s) lie within 4 dB of a smooth tilt from 100 Hz to 12 kHz at 13 m', (side) => {
    const off = side === 'left'
      ? {}
      : { '/matrix/0/0': undefined, '/matrix/0/1': undefined, '/matrix/0/2': 0, '/matrix/0/3': 0 }
    const curve = dft(tunedHall, edited(tuned, off), mix)
    const db = level(curve, 6)
    const inBand = [...db.keys()].filter(k => curve.frequencies[k]! >= 100 && curve.frequencies[k]! <= 12_000)
    const x = (k: number) => Math.log2(curve.frequencies[k]! / 1000)
    // the tilt: a straight line over octaves, least squares
    const n = inBand.length
    const [mx, my] = [inBand.reduce((s, k) => s + x(k), 0) / n, inBand.reduce((s, k) => s + db[k]!, 0) / n]
    const slope = inBand.reduce((s, k) => s + (x(k) - mx) * (db[k]! - my), 0)
      / inBand.reduce((s, k) => s + (x(k) - mx) ** 2, 0)
    const off4 = inBand.map(k => ({ f: curve.frequencies[k]!, off: db[k]! - my - slope * (x(k) - mx) }))
    const most = off4.reduce((a, b) => (Math.abs(b.off) > Math.abs(a.off) ? b : a))
    expect(Math.abs(most.off), `${most.f.toFixed(0)} Hz ${most.off.toFixed(1)} dB, slope ${slope.toFixed(2)}`)
      .toBeLessThan(4)
    expect(slope).toBeLessThan(0)
    expect(slope).toBeGreaterThan(-2.5)
  })
})
