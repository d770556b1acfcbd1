import { describe, expect, it } from 'vitest'
import { pinkNoise, standardGrid, windows } from '../dsp'
import { cases } from '../reference/cases'
import { scipy } from '../reference/scipy'
import { confidenceBand, independence, studentLimit, transferOf, uncertaintyOf, type Estimator } from './index'

const rate = 48_000
const noise = (seconds: number, seed: number) => {
  const x = new Float32Array(seconds * rate)
  pinkNoise(rate, seed)(x)
  return x
}
const at = (f: number) => standardGrid.findIndex(g => g >= f)
/** Points far enough apart that blocks of 4096 see each of them alone. */
const points = [400, 700, 1100, 1700, 2600, 4000, 6300, 9500].map(at)
/** What a share of 95 in 100 may be off by chance: two and a half deviations of a binomial distribution. */
const chance = (total: number) => 2.5 * Math.sqrt((0.95 * 0.05) / total)

describe('confidence of a transfer function', () => {
  it.each([[2, 0], [4, 0.5], [8, 0.75], [16, 0.75]])(
    'the truth lies within the limits of 95 of 100 measurements: %d blocks, %d shared',
    (count, overlap) => {
      let inside = 0
      let total = 0
      let width = 0
      let error = 0
      for (let seed = 1; seed <= cases(40, 12); seed++) {
        const x = noise(2, seed)
        const y = noise(2, seed + 1000)
        const { curve } = transferOf(x, x.map((v, n) => v + 0.7 * y[n]!), rate, {
          length: 4096,
          overlap,
          averaging: { kind: 'blocks', count },
          delay: 0,
        })
        const radius = uncertaintyOf(curve)!
        for (const k of points) {
          const off = Math.hypot(curve.re[k]! - 1, curve.im[k]!)
          total++
          error += off * off
          if (off <= radius[k]! * Math.hypot(curve.re[k]!, curve.im[k]!)) inside++
          width += Math.min(2, radius[k]!) ** 2
        }
      }
      expect(inside / total).toBeGreaterThan(0.95 - Math.max(0.03, chance(total)))
      // and they are not so wide that they say nothing: at most twice what 95 of 100 errors need (2.45 deviations)
      if (count >= 8) expect(Math.sqrt(width / error)).toBeLessThan(2 * 2.45 / Math.SQRT2)
    },
  )
  it.each([[3, 0], [8, 0.5], [16, 0.75]])(
    'a level lies within its own limits in 93 to 97 of 100 measurements: %d blocks, %d shared',
    (count, overlap) => {
      let inside = 0
      let total = 0
      for (let seed = 1; seed <= cases(60, 16); seed++) {
        const [x, y] = [noise(2, seed), noise(2, seed + 2000)]
        const { curve } = transferOf(x, x.map((v, n) => v + 0.4 * y[n]!), rate, {
          length: 4096, overlap, averaging: { kind: 'blocks', count }, delay: 0,
        })
        const { low, high } = confidenceBand(curve)!
        for (const k of points) {
          if (Number.isNaN(low[k]!)) continue
          total++
          if (low[k]! <= 0 && high[k]! >= 0) inside++
        }
      }
      expect(inside / total).toBeGreaterThan(0.95 - Math.max(0.02, chance(total)))
      expect(inside / total).toBeLessThan(0.95 + Math.max(0.025, chance(total)))
    },
  )
  it('Student’s t is as scipy has it (F of one degree of freedom is its square)', async () => {
    for (const freedom of [1, 2, 3, 4, 6, 10, 30, 200]) {
      const f = await scipy<number>('fisher', { q: 0.95, d1: 1, d2: freedom })
      expect(studentLimit(freedom) / Math.sqrt(f)).toBeCloseTo(1, 2)
    }
  })
  it('limits narrow with averages and coherence, as Bendat and Piersol have it for many', () => {
    const curve = (coherence: number, averages: number) => ({
      frequencies: Float64Array.of(1000),
      re: Float64Array.of(1),
      im: Float64Array.of(0),
      coherence: Float64Array.of(coherence),
      averages: Float64Array.of(averages),
    })
    // Random Data (2010), eq. (9.73): ε = √((1-γ²)/(2γ²n)); a circle of 95 % has √(-2 ln 0.05) = 2.448 deviations
    for (const [c, n] of [[0.5, 400], [0.9, 200], [0.99, 1000]] as const)
      expect(uncertaintyOf(curve(c, n))![0]).toBeCloseTo(2.448 * Math.sqrt((1 - c) / (2 * c * n)), 3)
    expect(confidenceBand(curve(0.9, 50))!.high[0]).toBeLessThan(confidenceBand(curve(0.9, 5))!.high[0]!)
    expect(uncertaintyOf(curve(0, 50))![0]).toBe(Infinity)
    expect(uncertaintyOf({ ...curve(0.5, 1), averages: null })).toBeNull()
  })
  it('the closed form for few averages is Fisher’s F with two degrees of freedom, as scipy has it', async () => {
    for (const n of [2, 3, 5, 10, 40]) {
      const f = await scipy<number>('fisher', { q: 0.95, d1: 2, d2: 2 * n - 2 })
      const radius = uncertaintyOf({
        frequencies: Float64Array.of(1),
        re: Float64Array.of(1),
        im: Float64Array.of(0),
        coherence: Float64Array.of(0.5),
        averages: Float64Array.of(n),
      })![0]!
      // Random Data (2010), eq. (9.85) with n_d averages
      expect(radius ** 2 / ((2 / (2 * n - 2)) * f)).toBeCloseTo(1, 9)
    }
  })
  it('blocks that share three quarters under a Hann window count for about half of them (Welch 1967)', () => {
    // Welch 1967, with ρ² = 0.4353 (3/4), 0.0278 (1/2), 0.0006: value from memory for the first two
    const { blocks } = independence(windows.hann.make, 0.75)
    expect(blocks(1000) / 1000).toBeCloseTo(1 / (1 + 2 * (0.4353 + 0.0278)), 2)
    expect(independence(windows.rectangular.make, 0).blocks(20)).toBe(20)
    // neighbours under a Hann window: (2/3)² and (1/6)²
    expect(independence(windows.hann.make, 0).bins(1000) / 1000).toBeCloseTo(1 / (1 + 2 * (4 / 9 + 1 / 36)), 2)
  })
})

describe('what blocks resolve', () => {
  it.each([[1024, 'hann', 93.75], [1024, 'blackman-harris', 187.5], [4096, 'hann', 23.4375]] as const)(
    'blocks of %d under %s show nothing below %d Hz, smoothed or not, and say so',
    (length, window, lowest) => {
      const x = noise(1, 3)
      const { curve, warnings } = transferOf(x, x, rate, { length, window, averaging: { kind: 'all' }, delay: 0 })
      standardGrid.forEach((f, k) => {
        if (f < lowest) expect([curve.re[k], curve.im[k], curve.coherence[k]]).toEqual([0, 0, 0])
        else if (f < 20_000) expect(Math.hypot(curve.re[k]!, curve.im[k]!)).toBeCloseTo(1, 3)
      })
      expect(warnings).toContainEqual(expect.saying(`below ${Math.round(lowest)} Hz`))
    },
  )
})

describe('estimators', () => {
  it('H2 leaves out the reference’s noise, H1 the microphone’s; Hg lies between', () => {
    const x = noise(12, 5)
    const y = noise(12, 6)
    const level = (reference: Float32Array, microphone: Float32Array, estimator: Estimator) => {
      const { curve } = transferOf(reference, microphone, rate, {
        length: 4096,
        averaging: { kind: 'all' },
        delay: 0,
        estimator,
      })
      const db = [...standardGrid.keys()]
        .filter(k => standardGrid[k]! > 300 && standardGrid[k]! < 8000)
        .map(k => 10 * Math.log10(curve.re[k]! ** 2 + curve.im[k]! ** 2))
      return db.reduce((a, b) => a + b) / db.length
    }
    const noisy = x.map((v, n) => v + y[n]!)
    expect(Math.abs(level(noisy, x, 'H2'))).toBeLessThan(0.2)
    expect(Math.abs(level(noisy, x, 'H1') + 6.02)).toBeLessThan(0.2)
    expect(Math.abs(level(noisy, x, 'Hg') + 3.01)).toBeLessThan(0.2)
    expect(Math.abs(level(x, noisy, 'H1'))).toBeLessThan(0.2)
  })
})
