import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { logGrid, peaking, seededRandom, unity, applySections, lowShelf, highShelf } from '../dsp'
import { cases, sample } from '../reference/cases'
import { scipy } from '../reference/scipy'
import { decibelsOf } from '../units'
import {
  filterLevel, fitFewest, fitFilters, filtersLevel, fitKinds, modeCut, tangentsOf, worthOf, type FitTask,
} from './index'
import { wordsOf } from '../words'

const rate = 48_000
const grid = logGrid(48, 20, 800)
const level = (section: ReturnType<typeof peaking>, at = grid) => {
  const curve = unity(at)
  applySections(curve, [section], rate)
  return Float64Array.from(curve.re, (re, k) => decibelsOf(Math.hypot(re, curve.im[k]!)))
}

/** Levels as of a room: bumps and dips of many widths, by number. */
export function bumpy(seed: number, at = grid): Float64Array {
  const random = seededRandom(seed)
  const sum = new Float64Array(at.length)
  for (let n = 0; n < 14; n++) {
    const f = 20 * 40 ** random()
    const one = level(peaking(f, (random() - 0.45) * 14, 0.5 + 9 * random() ** 2, rate), at)
    for (let k = 0; k < sum.length; k++) sum[k]! += one[k]!
  }
  return sum
}
const wish = (levels: ArrayLike<number>, more: Partial<FitTask> = {}): FitTask => ({
  sampleRate: rate,
  curves: [{ frequencies: grid, levels }],
  target: 'flat',
  range: [20, 800],
  bands: 8,
  gain: [-18, 6],
  q: [0.4, 12],
  kinds: ['peaking'],
  fill: true,
  ...more,
})

describe('a filter’s level in closed form', () => {
  it('is that of the Cookbook’s section, and its slopes are its differences', () => {
    const sections = { 'peaking': peaking, 'low-shelf': lowShelf, 'high-shelf': highShelf }
    const at = logGrid(12, 20, 20_000)
    const tangents = tangentsOf(at, rate)
    const out = () => new Float64Array(at.length)
    fc.assert(fc.property(
      fc.constantFrom(...fitKinds), fc.double({ min: 3, max: 9.8, noNaN: true }),
      fc.double({ min: -18, max: 18, noNaN: true }), fc.double({ min: -0.9, max: 2.5, noNaN: true }),
      (kind, logF, gain, logQ) => {
        const truth = level(sections[kind](Math.exp(logF), gain, Math.exp(logQ), rate), at)
        const [got, high, low] = [out(), out(), out()]
        const slopes = [out(), out(), out()] as const
        filterLevel(kind, logF, gain, logQ, tangents, rate, got, slopes)
        got.forEach((v, k) => expect(Math.abs(v - truth[k]!)).toBeLessThan(1e-7))
        const step = 1e-5
        const numbers = [logF, gain, logQ] as const
        slopes.forEach((slope, n) => {
          const moved = (by: number) => numbers.map((v, k) => (k === n ? v + by : v)) as [number, number, number]
          filterLevel(kind, ...moved(step), tangents, rate, high, null)
          filterLevel(kind, ...moved(-step), tangents, rate, low, null)
          slope.forEach((s, k) => expect(Math.abs(s - (high[k]! - low[k]!) / (2 * step))).toBeLessThan(2e-3))
        })
      },
    ), { numRuns: 60 })
  })
})

describe('fit', () => {
  it('comes as near as scipy’s least_squares (trf, best of eight starts) with the same bounds', async () => {
    for (const [seed, bands] of sample([[1, 4], [3, 5]] as const, 1)) {
      const levels = bumpy(seed)
      const got = fitFilters(wish(levels, { bands, gain: [-18, 12] }))
      const args = { frequencies: grid, wanted: levels.map(v => -v), bands, rate, gain: [-18, 12], q: [0.4, 12] }
      const { rms } = await scipy<{ rms: number }>('fit_peaking', { ...args, level: 1 })
      expect(got.after, `seed ${seed}`).toBeLessThanOrEqual(1.02 * rms + 1e-4)
      expect(got.after).toBeLessThan(got.before)
    }
  })
  it('finds the very filters that made a curve', () => {
    const made = [[63, -6, 3], [160, 5, 1.2], [400, -9, 5]] as const
    const levels = new Float64Array(grid.length)
    for (const [f, gain, q] of made) level(peaking(f, -gain, q, rate)).forEach((v, k) => (levels[k]! += v))
    const { filters, after } = fitFilters(wish(levels, { bands: 3, gain: [-18, 12] }))
    expect(after).toBeLessThan(5e-3) // the curve is read between its points
    expect(filters.map(f => f.frequency)).toEqual(made.map(([f]) => expect.closeTo(f, 0) as number))
    expect(filters.map(f => f.gain)).toEqual(made.map(([, g]) => expect.closeTo(g, 1) as number))
    expect(filters.map(f => f.q)).toEqual(made.map(([, , q]) => expect.closeTo(q, 1) as number))
  })
  it('keeps its limits, and its error is that of the filters that it names', () => {
    fc.assert(fc.property(fc.integer({ min: 10, max: 60 }), fc.integer({ min: 1, max: 6 }), (seed, bands) => {
      const levels = bumpy(seed)
      const limits = { gain: [-9, 0], q: [1, 6], range: [40, 500] } as const
      const got = fitFilters(wish(levels, { bands, ...limits }))
      expect(got.filters.length).toBeLessThanOrEqual(bands)
      for (const { frequency, gain, q } of got.filters) {
        expect(gain).toBeGreaterThanOrEqual(-9)
        expect(gain).toBeLessThanOrEqual(0)
        expect(q).toBeGreaterThanOrEqual(1 - 1e-9)
        expect(q).toBeLessThanOrEqual(6 + 1e-9)
        expect(frequency).toBeGreaterThanOrEqual(40 - 1e-6)
        expect(frequency).toBeLessThanOrEqual(500 + 1e-6)
      }
      const at = logGrid(200, 40, 500)
      const done = filtersLevel(got.filters, at, rate)
      const truth = bumpy(seed, at).map((v, k) => v + done[k]! - got.level)
      const rms = Math.sqrt(truth.reduce((s, v) => s + v * v, 0) / truth.length)
      // both are sums over other points of one curve
      expect(Math.abs(rms - got.after)).toBeLessThan(Math.max(0.06, 0.1 * got.after))
    }), { numRuns: cases(8, 3) })
  })
  it('does not fill what reflections cancel, what differs between places, or a narrow notch, and says why', () => {
    const hole = level(peaking(250, -14, 2, rate))
    const coherence = grid.map(f => (Math.abs(Math.log2(f / 250)) < 0.4 ? 0.3 : 0.95))
    const cancelled = fitFilters(wish(hole, { curves: [{ frequencies: grid, levels: hole, coherence }], fill: false }))
    expect(cancelled.left.map(l => [l.frequency, wordsOf(l.reason)])).toEqual([
      [expect.closeTo(250, -1), expect.stringMatching(/coherence of 0\.3.*likely.*cannot fill/)],
    ])
    expect(Math.max(...filtersLevel(cancelled.filters, grid, rate))).toBeLessThan(1.5)
    const flat = grid.map(() => 0)
    const apart = fitFilters(wish(hole, {
      curves: [{ frequencies: grid, levels: hole }, { frequencies: grid, levels: flat }], fill: false,
    }))
    expect(wordsOf(apart.left[0]!.reason)).toMatch(/positions differ by 1\d\.\d dB/)
    const narrow = fitFilters(wish(level(peaking(250, -14, 12, rate)), { fill: false }))
    expect(wordsOf(narrow.left[0]!.reason)).toMatch(/octaves wide: likely a cancellation/)
    // a broad dip alike everywhere is the loudspeaker’s own, and is filled as far as allowed
    const broad = fitFilters(wish(level(peaking(250, -5, 0.7, rate)), { fill: false }))
    expect(broad.after).toBeLessThan(0.3)
    expect(fitFilters(wish(hole, { fill: true, gain: [-18, 15] })).after).toBeLessThan(0.2)
  })
  it('weighs positions, follows a drawn target, and takes the fewest filters for an error', () => {
    const hill = level(peaking(100, 8, 2, rate))
    const flat = grid.map(() => 0)
    const curves = [{ frequencies: grid, levels: hill, weight: 0 }, { frequencies: grid, levels: flat }]
    expect(fitFilters(wish(hill, { curves })).after).toBeLessThan(1e-6)
    const target = { frequencies: [20, 800], levels: [6, -6] }
    const tilted = fitFilters(wish(flat, { target, bands: 4, gain: [-12, 12], kinds: ['peaking', 'low-shelf'] }))
    expect(tilted.level).toBe(0)
    expect(tilted.after).toBeLessThan(0.6)
    const few = fitFewest(wish(bumpy(5), { gain: [-18, 12] }), 1)
    const less = fitFilters(wish(bumpy(5), { gain: [-18, 12], bands: few.filters.length - 1 }))
    expect(few.after).toBeLessThanOrEqual(1)
    expect(less.after).toBeGreaterThan(1)
  })
})

describe('a curve without coherence', () => {
  /** A loudspeaker with a slow course of its own, heard twice. */
  const heardTwice = (seed: number, given?: number) => {
    const random = seededRandom(seed)
    const first = given ?? 45 + 70 * random()
    const isTurned = seed % 3 === 0
    const delay = (isTurned ? 1 : 0.5) / first
    const r = 0.55 + 0.35 * random()
    const own = level(peaking(80 + 300 * random(), (random() - 0.5) * 6, 0.5, rate))
    const levels = Float64Array.from(grid, (f, k) => own[k]! + 0.4 * (random() - 0.5)
      + 10 * Math.log10(1 + r * r + 2 * (isTurned ? -r : r) * Math.cos(2 * Math.PI * f * delay)))
    return { levels, dips: [0, 1, 2].map(n => first * (isTurned ? 1 + n : 1 + 2 * n)) }
  }
  it('a comb is told by its own even spacing: its dips are left, wide as the first ones are', () => {
    const many = cases(24, 8)
    const told = Array.from({ length: many }, (_, n) => heardTwice(n + 1)).map(({ levels, dips }) => {
      const { filters, left } = fitFilters(wish(levels, { bands: 6, gain: [-12, 6], fill: false }))
      const done = filtersLevel(filters, Float64Array.from(dips), rate)
      return { isSaid: left.some(l => /dips of a comb/.test(wordsOf(l.reason))), filled: Math.max(...done) }
    })
    expect(told.filter(t => t.isSaid).length).toBeGreaterThanOrEqual(0.9 * many)
    expect(told.filter(t => t.isSaid && t.filled > 2)).toEqual([])
  })
  it('what is no comb is called none: a room’s bumps, a loudspeaker’s own dips', () => {
    const many = cases(60, 20)
    const called = Array.from({ length: many }, (_, n) => fitFilters(wish(bumpy(n + 1), { bands: 2, fill: false })))
      .filter(({ left }) => left.some(l => /dips of a comb/.test(wordsOf(l.reason))))
    expect(called.length).toBeLessThanOrEqual(0.05 * many)
  })
  it('a mode is cut although a comb stands beside it', () => {
    const { levels } = heardTwice(4, 115)
    const mode = level(peaking(63, 9, 8, rate))
    const { filters } = fitFilters(wish(levels.map((v, k) => v + mode[k]!), { bands: 4, gain: [-12, 6], fill: false }))
    expect(filtersLevel(filters, Float64Array.of(63), rate)[0]).toBeLessThan(-4)
  })
  it('filters together keep the limit of one: none stack where one may not go', () => {
    fc.assert(fc.property(fc.integer({ min: 1, max: 200 }), fc.boolean(), (seed, fill) => {
      const random = seededRandom(seed)
      const hole = level(peaking(40 + 300 * random(), -20, 0.6 + 2 * random(), rate))
      const levels = bumpy(seed).map((v, k) => v + hole[k]!)
      const { filters } = fitFilters(wish(levels, { bands: 6, gain: [-9, 6], fill }))
      const sum = filtersLevel(filters, grid, rate)
      expect(Math.max(...sum)).toBeLessThan(6.05)
      expect(Math.min(...sum)).toBeGreaterThan(-9.05)
    }), { numRuns: cases(12, 4) })
  })
})

describe('a mode that rings', () => {
  const decay = 1.4
  const frequency = 62
  /** A resonance of one pole pair, heard beside the direct sound: zeros and poles on one frequency. */
  const poleQ = (Math.PI * frequency * decay) / Math.log(1000)
  const height = 9
  // the Cookbook's boost of this gain has its poles' Q at q·A
  const boost = peaking(frequency, height, poleQ / 10 ** (height / 40), rate)
  const levels = level(boost)
  const modes = [{ frequency, decay }]
  it('is cut by the very filter that takes its poles away', () => {
    const { q } = modeCut({ frequency, decay }, -height)
    const cut = level(peaking(frequency, -height, q, rate))
    levels.forEach((v, k) => expect(Math.abs(v + cut[k]!)).toBeLessThan(1e-6))
  })
  it('is cut first, where it stands over the target, whatever else is fitted', () => {
    const more = levels.map((v, k) => v + bumpy(3)[k]! / 2)
    const found = fitFilters(wish(more, { modes, fill: false, q: [0.4, 30] }))
    const one = found.filters.find(f => f.frequency === frequency)!
    expect(one.gain).toBeLessThan(-4)
    expect(one.q).toBeCloseTo(modeCut({ frequency, decay }, one.gain).q, 9)
    expect(found.after).toBeLessThan(found.before)
  })
  it('is left where nothing stands over the target, or no filter that narrow is allowed', () => {
    const flat = fitFilters(wish(levels.map(() => 0), { modes, bands: 2 }))
    expect(flat.filters.filter(f => f.frequency === frequency)).toEqual([])
    const wide = fitFilters(wish(levels, { modes, q: [0.4, 3] }))
    expect(wide.filters.every(f => f.q <= 3)).toBe(true)
  })
})

it('what a filter buys is the error without it, and none buys less than nothing', () => {
  const asked = wish(bumpy(5), { bands: 5 })
  const result = fitFilters(asked)
  const worth = worthOf(asked, result)
  expect(worth).toHaveLength(result.filters.length)
  for (const w of worth) expect(w).toBeGreaterThan(0)
  expect(Math.max(...worth)).toBeLessThanOrEqual(result.before)
})
