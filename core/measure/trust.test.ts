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
    expect(warnings.filter(w => w.startsWith('Coherence is under'))).toEqual([])
    expect(trustedPart(curve, arrival?.band ?? null).part).toBeGreaterThan(0.9)
    expect(trustedPart(curve, null).part).toBeLessThan(0.5)
  })
  it('a silent microphone is said to be silent, not the recording too short', () => {
    expect(() => transferOf(pink(1), new Float32Array(4 * rate), rate, options)).toThrow('The microphone is silent')
    expect(() => transferOf(pink(1, 1).subarray(0, 9000), pink(1, 1).subarray(0, 9000), rate, options))
      .toThrow('too short for one block')
  })
})
