import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { logGrid, standardGrid } from '../dsp'
import { firstTakeBytes } from '../documents/firstVersion'
import { decodeTake, encodeTake, upgradeTakeBytes } from './take'

const float = fc.float({ noNaN: true, noDefaultInfinity: true, min: -1e6, max: 1e6 })
const floats = (n: number) => fc.array(float, { minLength: n, maxLength: n })
const columns = (n: number) => floats(n).map(a => Float64Array.from(a))
const harmonic = fc
  .integer({ min: 0, max: 9 })
  .chain(n =>
    fc.record({
      order: fc.integer({ min: 2, max: 9 }),
      frequencies: floats(n).map(a => Float32Array.from(a)),
      level: floats(n).map(a => Float32Array.from(a)),
    }),
  )
const data = fc
  .record({
    points: fc.integer({ min: 2, max: 60 }),
    samples: fc.integer({ min: 0, max: 100 }),
    coherent: fc.boolean(),
  })
  .chain(({ points, samples, coherent }) =>
    fc.record({
      curve: fc.record({
        frequencies: fc.constant(Float64Array.from(logGrid(12, 20, 20_000).slice(0, points), Math.fround)),
        re: columns(points),
        im: columns(points),
        coherence: coherent ? columns(points) : fc.constant(null),
        averages: coherent ? columns(points) : fc.constant(null),
      }),
      impulse: fc.option(
        fc.record({
          samples: floats(samples).map(a => Float32Array.from(a)),
          sampleRate: fc.constantFrom(44_100, 48_000, 96_000),
          start: fc.double({ min: -1, max: 1, noNaN: true }),
        }),
        { nil: null },
      ),
      harmonics: fc.array(harmonic, { maxLength: 4 }),
      signalToNoise: fc.array(fc.record({ middle: float, level: float }), { maxLength: 8 }),
    }),
  )

describe('a take as bytes', () => {
  it('comes back as it went, with rate, start, harmonics and noise', () => {
    fc.assert(
      fc.property(data, (take) => {
        expect(decodeTake(encodeTake(take))).toEqual(take)
      }),
    )
  })
  it('on the standard grid names the grid instead of its points', () => {
    const zeros = new Float64Array(standardGrid.length)
    const curve = { frequencies: standardGrid, re: zeros, im: zeros, coherence: null }
    const bytes = encodeTake({ curve, impulse: null, harmonics: [], signalToNoise: [] })
    expect(bytes.length).toBe(4 + 8 + 20 + 8 + 8 * standardGrid.length)
    expect(decodeTake(bytes).curve.frequencies).toBe(standardGrid)
  })
  it('is refused when cut anywhere but between its parts, and any single broken byte never crashes the reader', () => {
    fc.assert(
      fc.property(data, fc.nat(), fc.integer({ min: 0, max: 255 }), (take, at, byte) => {
        const bytes = encodeTake(take)
        for (const spoil of [
          () => bytes.subarray(0, at % bytes.length),
          () => bytes.with(at % bytes.length, byte),
        ]) {
          try {
            decodeTake(Uint8Array.from(spoil()))
          }
          catch (error) {
            expect(error).toBeInstanceOf(RangeError)
          }
        }
        expect(() => decodeTake(bytes.subarray(0, Math.min(at % bytes.length, 20)))).toThrow(RangeError)
      }),
    )
  })
  it('passes over parts that it does not know', () => {
    const [take] = fc.sample(data, { numRuns: 1, seed: 4 })
    const bytes = encodeTake(take!)
    const more = new Uint8Array(bytes.length + 11)
    more.set(bytes)
    new DataView(more.buffer).setUint32(bytes.length, 0x5a5a_5a5a, true)
    new DataView(more.buffer).setUint32(bytes.length + 4, 3, true)
    expect(decodeTake(more)).toEqual(take)
  })
  it('refuses a huge claim without making room for it, and what is no take', () => {
    const bytes = new Uint8Array(16)
    new Uint32Array(bytes.buffer).set([0x4b56_5432, 1, 4_000_000_000, 4_000_000_000])
    expect(() => decodeTake(bytes)).toThrow(/cut short/)
    expect(() => decodeTake(new Uint8Array(3))).toThrow(/not a take/)
    expect(() => decodeTake(firstTakeBytes(standardGrid, 1, new Float32Array(2)))).toThrow(/older version/)
  })
  it('of the first version comes over as it was; cut short it is refused', () => {
    const samples = Float32Array.from([0, 1, 0.5])
    const first = firstTakeBytes(standardGrid, 0.5, samples)
    const info = { sampleRate: 44_100, impulseStart: -0.02 }
    const read = decodeTake(upgradeTakeBytes(first, info))
    expect(read.curve.frequencies).toBe(standardGrid)
    expect([read.curve.re[7], read.curve.coherence![7]]).toEqual([0.5, Math.fround(0.9)])
    expect(read.impulse).toEqual({ samples, sampleRate: 44_100, start: -0.02 })
    expect(() => upgradeTakeBytes(first.subarray(0, first.length - 4), info)).toThrow(/cut short/)
    const now = upgradeTakeBytes(first, info)
    expect(upgradeTakeBytes(now, info)).toBe(now)
  })
})
