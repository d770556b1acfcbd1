import { describe, expect, it } from 'vitest'
import { silence, standardGrid, unity, type Curve } from '../dsp'
import { offTarget } from './job'
import { shadeZones, trimToCommon } from './levels'
import type { Reading } from './readings'
import { spreadOf } from './spread'

const flat = (dB: number): Curve => {
  const g = 10 ** (dB / 20)
  const { re, im } = unity(standardGrid)
  return { ...unity(standardGrid), re: re.map(v => g * v), im, coherence: null }
}
const reading = (dB: number): Reading => ({ curve: flat(dB), delay: 0 })
const nothing: Reading = { curve: { ...silence(standardGrid), coherence: null }, delay: 0 }

describe('how much positions differ', () => {
  it('is the standard deviation in each third of an octave, by their weights', () => {
    const { all, each, bands } = spreadOf([flat(0), flat(6)], [1, 1])
    expect(bands[0]).toBeCloseTo(100, 0)
    expect(bands).toHaveLength(21)
    for (const e of each) expect(e).toBeCloseTo(3, 6)
    expect(all).toBeCloseTo(3, 6)
    // weights 3 and 1: mean 1.5 dB, variance 0.75·1.5² + 0.25·4.5²
    expect(spreadOf([flat(0), flat(6)], [3, 1]).all).toBeCloseTo(Math.sqrt(0.75 * 2.25 + 0.25 * 20.25), 6)
    expect(spreadOf([flat(-3), flat(-3)], [1, 1]).all).toBeCloseTo(0, 9)
    expect(() => spreadOf([flat(0)], [0])).toThrow('There is no position that counts')
  })
  it('off a target leaves one level for all free, and nothing else', () => {
    expect(offTarget([[3, 3], [3, 3]], [0, 0], [1, 1])).toBeCloseTo(0, 9)
    expect(offTarget([[3, 1], [3, 1]], [2, 0], [1, 1])).toBeCloseTo(0, 9)
    expect(offTarget([[1, -1], [1, -1]], [0, 0], [1, 1])).toBeCloseTo(1, 9)
  })
})

describe('zones shaded front to back', () => {
  const wish = { weights: [1, 1], sampleRate: 96_000, gain: [-12, 3] as const, shelf: [-6, 6] as const }
  it('bring places that each hear one zone to the wished fall', () => {
    const zones = [[reading(6), nothing], [nothing, reading(0)]]
    const even = shadeZones({ ...wish, zones, fall: 0 })
    expect(even.before).toBeCloseTo(3, 3)
    expect(even.after).toBeLessThan(0.1)
    expect(even.gains[0]! - even.gains[1]!).toBeCloseTo(-6, 6)
    expect(even.levels[1]).toBeCloseTo(0, 1)
    const falling = shadeZones({ ...wish, zones, fall: 3 })
    expect(falling.levels[1]).toBeCloseTo(-3, 1)
  })
  it('leave alone what is even, and refuse what does not fit', () => {
    const zones = [[reading(0), reading(0)]]
    expect(shadeZones({ ...wish, zones, fall: 0 })).toMatchObject({ gains: [0], shelves: [0] })
    expect(() => shadeZones({ ...wish, zones: [[reading(0)]], fall: 0 })).toThrow('every place')
    expect(() => shadeZones({ ...wish, zones, weights: [0, 0], fall: 0 })).toThrow('No place counts')
  })
})

describe('loudspeakers round one place', () => {
  it('all arrive with the last, as loud as the softest, and none gets louder', () => {
    const channels = [{ arrival: 0.01, level: -3 }, { arrival: 0.004, level: 2 }, { arrival: 0.007, level: 0 }]
    const trims = trimToCommon(channels)
    expect(channels.map((c, n) => c.arrival + trims[n]!.delay)).toEqual([0.01, 0.01, 0.01])
    expect(channels.map((c, n) => c.level + trims[n]!.by)).toEqual([-3, -3, -3])
    expect(trims.every(t => t.delay >= 0 && t.by <= 0)).toBe(true)
  })
})
