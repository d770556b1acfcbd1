import { describe, expect, it } from 'vitest'
import {
  allPass, applyGainAndDelay, applySections, copyOf, seededRandom, standardGrid, unity, type Curve,
} from '../dsp'
import { matchPhases } from './phaseMatch'
import { inTimeOf, overlapIn, sumOf, type Both, type Reading } from './readings'

const rate = 96_000
const reading = (curve: Curve, delay = 0): Reading => ({ curve, delay })
/** A source whose phase wanders, so that nothing is zero by accident. */
function wandering(seed: number): Curve {
  const random = seededRandom(seed)
  const curve = { ...unity(standardGrid), coherence: null }
  for (let n = 0; n < 3; n++) applySections(curve, [allPass(100 + 3000 * random(), 0.5 + random(), rate)], rate)
  return curve
}
function put(curve: Curve, { delay = 0, sign = 1, filters = [] as [number, number][] }): Curve {
  const next = copyOf(curve)
  applySections(next, filters.map(([f, q]) => allPass(f, q, rate)), rate)
  applyGainAndDelay(next, sign, delay)
  return next
}
const both = (reference: Curve, move: Curve): Both =>
  ({ reference: reading(reference), move: reading(move), apart: null })
const wish = { weights: [1, 1], band: [60, 600] as [number, number], sampleRate: rate, delay: [-0.02, 0.02] as const }

describe('one loudspeaker made to turn its phase like another', () => {
  it.each([1, 2, 3])('finds back the delay, polarity and all-pass that stand between them (seed %d)', (seed) => {
    const random = seededRandom(seed)
    const filter: [number, number] = [120 + 300 * random(), 0.6 + random()]
    const late = Math.round((random() - 0.5) * 400) * 2e-5
    const sign = random() < 0.5 ? -1 : 1
    const places = [1, 2].map((n) => {
      const base = wandering(10 * seed + n)
      return both(put(base, { filters: [filter], delay: late, sign }), base)
    })
    const found = matchPhases({ ...wish, places, most: 2 })
    expect(found.after).toBeLessThan(3)
    expect(found.within).toBe(1)
    expect(found.polarity).toBe(sign)
    expect(Math.abs(found.delay - late)).toBeLessThan(1e-4)
    expect(found.delayed).toBeGreaterThan(found.after)
    // what it says is what setting it does
    const done = put(places[0]!.move.curve, {
      delay: found.delay, sign: found.polarity, filters: found.filters.map(f => [f.frequency, f.q]),
    })
    const k = standardGrid.findIndex(f => f > 200)
    const [r, d] = [places[0]!.reference.curve, done]
    const apart = Math.atan2(
      r.re[k]! * d.im[k]! - r.im[k]! * d.re[k]!,
      r.re[k]! * d.re[k]! + r.im[k]! * d.im[k]!,
    )
    expect(Math.abs(apart * 180 / Math.PI)).toBeLessThan(10)
  })
  it('takes no filter where a delay does', () => {
    const base = wandering(5)
    const found = matchPhases({ ...wish, weights: [1], places: [both(put(base, { delay: 0.004 }), base)], most: 3 })
    expect(found.filters).toEqual([])
    expect(found.delay).toBeCloseTo(0.004, 5)
    expect(found.after).toBeLessThan(1)
  })
  it('refuses what cannot be compared', () => {
    const places = [both(wandering(1), wandering(2))]
    expect(() => matchPhases({ ...wish, places: [], weights: [], most: 1 })).toThrow('no position')
    expect(() => matchPhases({ ...wish, places, weights: [0], most: 1 })).toThrow('no position')
    expect(() => matchPhases({ ...wish, places, weights: [1], band: [100, 101], most: 1 })).toThrow('too narrow')
  })
})

describe('readings of sources', () => {
  const level = (c: Curve, k: number) => 20 * Math.log10(Math.hypot(c.re[k]!, c.im[k]!))
  it('sum by their own times: the same sound twice is 6.02 dB up, whatever was taken out of each phase', () => {
    const base = wandering(3)
    const later = reading(put(base, { delay: 0 }), 0.01)
    const same = reading(put(base, { delay: 0.01 }), 0)
    const sum = sumOf([later, same])
    for (const k of [50, 200, 400]) expect(level(sum.curve, k)).toBeCloseTo(6.0206, 3)
    expect(sum.delay).toBe(0)
  })
  it('are trusted together where each is, and overlap only there', () => {
    const trusted = (from: number): Curve =>
      ({ ...wandering(4), coherence: standardGrid.map(f => (f >= from ? 1 : 0)) })
    const sum = sumOf([reading(trusted(100)), reading(trusted(400))])
    expect(sum.curve.coherence![standardGrid.findIndex(f => f > 200)]).toBe(0)
    const band = overlapIn([{ reference: reading(trusted(100)), move: reading(trusted(400)), apart: null }], 0.6)!
    expect(band[0]).toBeGreaterThan(300)
    expect(() => sumOf([])).toThrow('nothing to sum')
  })
  it('are turned by what is taken out of their phase', () => {
    const base = wandering(6)
    const turned = inTimeOf(reading(put(base, { delay: 0 }), 0.003), 0)
    const k = standardGrid.findIndex(f => f > 100)
    const wanted = -2 * Math.PI * standardGrid[k]! * 0.003
    const before = Math.atan2(base.im[k]!, base.re[k]!)
    const now = Math.atan2(turned.im[k]!, turned.re[k]!)
    expect(Math.cos(now - before - wanted)).toBeCloseTo(1, 9)
  })
})
