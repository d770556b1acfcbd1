import { describe, expect, it } from 'vitest'
import { bandPass, filterThrough, pinkNoise, seededRandom } from '../dsp'
import { transferOf, trustedPart } from './index'

const rate = 48_000
const pink = (seed: number, seconds = 4) => {
  const x = new Float32Array(seconds * rate)
  pinkNoise(rate, seed)(x)
  return x.map(v => v * 0.1)
}
const options = { length: 16_384, averaging: { kind: 'all' }, delay: 'auto' } as const

describe('how much of a curve is trusted', () => {
  it('is counted where the source plays: a sub is not doubted for the highs that it does not play', () => {
    const x = pink(1, 12)
    const random = seededRandom(3)
    const low = filterThrough(bandPass(4, 35, 90, rate), x)
    const y = Float32Array.from(low, v => v + 2e-4 * (random() - 0.5))
    const { curve, warnings, arrival } = transferOf(x, y, rate, options)
    expect(warnings.filter(w => w.code === 'measure.littleTrusted')).toEqual([])
    expect(trustedPart(curve, arrival?.band ?? null).part).toBeGreaterThan(0.9)
    expect(trustedPart(curve, null).part).toBeLessThan(0.5)
  })
  it('has a figure in dB: the middle of the interval over the band, none where half of it has no limit', () => {
    const curve = (coherence: number[], averages: number | null) => ({
      frequencies: Float64Array.from([10, 100, 200, 400, 800, 20_000]),
      re: new Float64Array(6).fill(1),
      im: new Float64Array(6),
      coherence: Float64Array.from(coherence),
      averages: averages === null ? null : new Float64Array(6).fill(averages),
    })
    const [alike, mixed] = [[0, 0.9, 0.9, 0.9, 0.9, 0], [0, 0.99, 0.9, 0.9, 0.2, 0]]
    const known = trustedPart(curve(alike, 20), [50, 1000]).level!
    // Student's t of 38 degrees of freedom is 2.0244 at 95 % (Abramowitz & Stegun 1964, table 26.10, between 30 and 40)
    expect(known).toBeCloseTo(20 * Math.log10(1 + 2.0244 * Math.sqrt(0.1 / (0.9 * 38))), 3)
    expect(trustedPart(curve(mixed, 20), [50, 1000]).level).toBeCloseTo(known, 9)
    expect(trustedPart(curve(alike, 80), [50, 1000]).level!).toBeLessThan(known / 1.9)
    expect(trustedPart(curve([0, 0, 0, 0.9, 0, 0], 20), [50, 1000]).level).toBeNull()
    expect(trustedPart(curve(alike, null), [50, 1000]).level).toBeNull()
  })
  it('a silent microphone is said to be silent, not the recording too short', () => {
    expect(() => transferOf(pink(1), new Float32Array(4 * rate), rate, options)).toThrow('The microphone is silent')
    expect(() => transferOf(pink(1, 1).subarray(0, 9000), pink(1, 1).subarray(0, 9000), rate, options))
      .toThrow('too short for one block')
  })
})
