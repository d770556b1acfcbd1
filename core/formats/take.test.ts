import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { logGrid } from '../dsp'
import { decodeTake, encodeTake } from './take'

const float = fc.float({ noNaN: true, noDefaultInfinity: true, min: -1e6, max: 1e6 })
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
        re: fc.array(float, { minLength: points, maxLength: points }).map(a => Float64Array.from(a)),
        im: fc.array(float, { minLength: points, maxLength: points }).map(a => Float64Array.from(a)),
        coherence: coherent
          ? fc.array(float, { minLength: points, maxLength: points }).map(a => Float64Array.from(a))
          : fc.constant(null),
      }),
      impulse: fc.array(float, { minLength: samples, maxLength: samples }).map(a => Float32Array.from(a)),
    }),
  )

describe('a take as bytes', () => {
  it('comes back as it went', () => {
    fc.assert(
      fc.property(data, (take) => {
        expect(decodeTake(encodeTake(take))).toEqual(take)
      }),
    )
  })
  it('is refused when cut anywhere, and any single broken byte never crashes the reader', () => {
    fc.assert(
      fc.property(data, fc.nat(), fc.integer({ min: 0, max: 255 }), (take, at, byte) => {
        const bytes = encodeTake(take)
        expect(() => decodeTake(bytes.subarray(0, at % bytes.length))).toThrow(RangeError)
        bytes[at % bytes.length] = byte
        try {
          decodeTake(bytes)
        }
        catch (error) {
          expect(error).toBeInstanceOf(RangeError)
        }
      }),
    )
  })
  it('refuses a huge claim without making room for it', () => {
    const bytes = new Uint8Array(16)
    new Uint32Array(bytes.buffer).set([0x4b565431, 4_000_000_000, 1, 4_000_000_000])
    expect(() => decodeTake(bytes)).toThrow(/not possible/)
  })
})
