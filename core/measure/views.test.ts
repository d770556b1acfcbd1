import { describe, expect, it } from 'vitest'
import {
  applyGainAndDelay,
  applySections,
  bandPass,
  curveOfImpulse,
  filterThrough,
  groupDelay,
  logGrid,
  magnitude,
  nearestNote,
  onGrid,
  peaking,
  smoothedGroupDelay,
  standardGrid,
  stepResponse,
  unity,
  unwrappedPhase,
} from '../dsp'
import { scipy } from '../reference/scipy'
import { arrivalsOf, decayMap, fallTimes } from './index'

const rate = 48_000

describe('what a curve says besides', () => {
  const late = unity(logGrid(48, 20, 2000))
  applyGainAndDelay(late, 0.5, 0.003)
  it('a pure delay has a straight phase and its own group delay everywhere', () => {
    unwrappedPhase(late).forEach((v, k) => expect(v).toBeCloseTo(-360 * 0.003 * late.frequencies[k]!, 6))
    groupDelay(late).forEach(v => expect(v).toBeCloseTo(0.003, 9))
  })
  it('averaged group delay is a pure delay’s own, a filter’s where the width is small, and calm in a comb', () => {
    smoothedGroupDelay(late, 1 / 3).forEach(v => expect(v).toBeCloseTo(0.003, 9))
    const filter = unity(standardGrid)
    applySections(filter, [peaking(1000, 9, 1, rate)], rate)
    const exact = groupDelay(filter)
    smoothedGroupDelay(filter, 1 / 24).forEach((v, k) => expect(Math.abs(v - exact[k]!)).toBeLessThan(2e-5))
    // a reflection 3 ms later and 0.5 dB under the direct sound: the plain delay leaps at every dip, and the mean of
    // what carries power lies between direct sound and reflection
    const comb = unity(standardGrid)
    comb.frequencies.forEach((f, k) => {
      comb.re[k] = 1 + 0.94 * Math.cos(2 * Math.PI * f * 0.003)
      comb.im[k] = -0.94 * Math.sin(2 * Math.PI * f * 0.003)
    })
    const inside = (v: number, k: number) => (comb.frequencies[k]! < 1000 || comb.frequencies[k]! > 8000 ? 0 : v)
    const plain = groupDelay(comb).map(inside)
    const calm = smoothedGroupDelay(comb, 1).map(inside)
    expect(Math.min(...plain)).toBeLessThan(-0.005)
    expect(Math.min(...calm)).toBeGreaterThanOrEqual(0)
    expect(Math.max(...calm)).toBeLessThan(0.003)
    const silent = { ...late, re: late.re.map(() => 0), im: late.im.map(() => 0) }
    expect([...smoothedGroupDelay(silent, 1)].every(Number.isNaN)).toBe(true)
  })
  it('a delay is its own group delay up to the highs, where the phase turns more than once between points', () => {
    for (const seconds of [0.0012, 0.004, -0.003, 0.009]) {
      const curve = unity(standardGrid)
      applyGainAndDelay(curve, 1, seconds)
      for (const delays of [groupDelay(curve), smoothedGroupDelay(curve, 1 / 6)])
        delays.forEach(v => expect(v).toBeCloseTo(seconds, 7))
    }
  })
  it('group delay of a filter is scipy.signal.group_delay’s', async () => {
    const section = peaking(1000, 9, 3, rate)
    const curve = unity(standardGrid)
    applySections(curve, [section], rate)
    const at = [500, 900, 1000, 1200, 4000].map(f => standardGrid.findIndex(g => g >= f))
    const ours = groupDelay(curve)
    const [b0, b1, b2, a1, a2] = section
    const truth = await scipy<number[]>('group_delay', {
      b: [b0, b1, b2],
      a: [1, a1, a2],
      rate,
      frequencies: at.map(k => standardGrid[k]),
    })
    at.forEach((k, n) =>
      expect(Math.abs(ours[k]! * rate - truth[n]!)).toBeLessThan(0.02 * Math.abs(truth[n]!) + 0.05),
    )
  })
  it('the step is the sum, a response transforms to its own curve', () => {
    expect(Array.from(stepResponse([1, -0.5, 0.25]))).toEqual([1, 0.5, 0.75])
    const response = filterThrough(
      [peaking(1000, 6, 1, rate)],
      Float32Array.from({ length: 4096 }, (_, n) => (n === 10 ? 1 : 0)),
    )
    const exact = unity(standardGrid)
    applySections(exact, [peaking(1000, 6, 1, rate)], rate)
    const curve = curveOfImpulse(response, rate, -10 / rate, standardGrid)
    standardGrid.forEach((f, k) => {
      if (f > 50) {
        expect(curve.re[k]).toBeCloseTo(exact.re[k]!, 3)
        expect(curve.im[k]).toBeCloseTo(exact.im[k]!, 3)
      }
    })
  })
  it('goes onto another grid without losing level or phase, and is silent outside its range', () => {
    const coarse = unity(logGrid(24, 100, 5000))
    const exact = unity(standardGrid)
    for (const c of [coarse, exact]) {
      applySections(c, [peaking(800, 6, 1, rate)], rate)
      applyGainAndDelay(c, 1, 0.0002)
    }
    const moved = onGrid(coarse, standardGrid)
    standardGrid.forEach((f, k) => {
      if (f < 99 || f > 5001) expect(moved.re[k]).toBe(0)
      else if (f > 105 && f < 4900)
        expect(Math.hypot(moved.re[k]! - exact.re[k]!, moved.im[k]! - exact.im[k]!)).toBeLessThan(0.01)
    })
    expect(magnitude(onGrid(exact, standardGrid))).toEqual(magnitude(exact))
  })
  it.each([
    [440, 'A4'],
    [261.63, 'C4'],
    [27.5, 'A0'],
    [445, 'A4 +20'],
    [41.2, 'E1'],
    [4186, 'C8'],
  ])('%d Hz is %s (equal temperament, ISO 16)', (f, name) => {
    expect(nearestNote(f)).toBe(name)
  })
})

describe('decay over frequency', () => {
  const ringing = Float32Array.from({ length: rate }, (_, n) =>
    n < 100 ? 0 : Math.sin((2 * Math.PI * 120 * n) / rate) * 10 ** ((-3 * (n - 100)) / rate / 0.9),
  )
  const map = decayMap(ringing, rate, 100, logGrid(12, 40, 400), 0.6, 61, 0.1)
  it('a mode at 120 Hz of 0.9 s stands at its frequency and falls 20 dB in 0.3 s', () => {
    const row = Array.from(map.levels.subarray(0, map.frequencies.length))
    const k = row.indexOf(Math.max(...row))
    expect(map.frequencies[k]! / 120).toBeCloseTo(1, 1)
    const falls = fallTimes(map, 20)[k]!
    expect(falls).toBeGreaterThan(0.2)
    expect(falls).toBeLessThan(0.3 + 0.17 / 2 + 0.05) // half of the window of 170 ms later
    expect(Math.min(...map.levels)).toBeGreaterThanOrEqual(-60)
  })
  it('an impulse is gone with its window', () => {
    const click = new Float32Array(rate)
    click[1000] = 1
    const falls = fallTimes(decayMap(click, rate, 1000, logGrid(3, 200, 8000), 0.4, 41, 0.05), 20)
    expect(falls.every(t => t !== null && t < 0.05)).toBe(true)
  })
})

describe('arrivals in a response', () => {
  it('lists direct sound and reflections with time, level and polarity', () => {
    const pulse = filterThrough(
      bandPass(1, 100, 15_000, rate),
      Float32Array.from({ length: 4800 }, (_, n) => new Map([[240, 1], [480, -0.5], [1200, 0.25]]).get(n) ?? 0),
    )
    const found = arrivalsOf(pulse, rate, -0.001)
    expect(found.map(a => a.polarity)).toEqual([1, -1, 1])
    expect(found[1]!.time - found[0]!.time).toBeCloseTo(0.005, 4)
    expect(found.map(a => Math.round(a.level))).toEqual([0, -6, -12])
    expect(arrivalsOf(new Float32Array(100), rate, 0)).toEqual([])
  })
})
