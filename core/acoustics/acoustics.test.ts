import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { airLoss, distance, images, pressureAt, speedOfSound } from './index'

describe('air', () => {
  it('speed of sound', () => { // references.md: 331.3 m/s at 0 °C, 343.2 m/s at 20 °C
    expect(speedOfSound(0)).toBeCloseTo(331.3, 1)
    expect(speedOfSound(20)).toBeCloseTo(343.2, 6)
  })
  // ISO 9613-1 table 1, 101.325 kPa, in dB/km (values from memory, hence 3 %)
  it.each([
    [20, 50, 1000, 4.66], [20, 50, 4000, 29.7], [20, 50, 8000, 105], [10, 70, 1000, 3.66], [10, 70, 8000, 117], [20, 70, 2000, 9.0], [15, 50, 250, 1.2],
  ])('loss at %d °C, %d %%, %d Hz is %d dB/km', (temperature, humidity, f, loss) => {
    expect(Math.abs(1000 * airLoss(f, { temperature, humidity, pressure: 101.325 }) / loss - 1)).toBeLessThan(0.03)
  })
  it('pressure falls by about 11.3 % in the first kilometre (ISO 2533)', () => {
    expect(pressureAt(0)).toBe(101.325)
    expect(pressureAt(1000)).toBeCloseTo(89.87, 1)
  })
})

describe('mirror images in a rectangular room', () => {
  const size = { x: 10, y: 6, z: 3 }, source = { x: 2, y: 2.5, z: 1.2 }
  const even = { front: 0.19, back: 0.19, left: 0.19, right: 0.19, floor: 0.19, ceiling: 0.19 }
  it('the first order lies behind each wall at its own distance, 0.9 of the pressure left', () => {
    const first = images(size, even, source, 1).filter(i => i.order === 1)
    expect(first.map(i => [i.place.x, i.place.y, i.place.z])).toEqual(expect.arrayContaining([
      [-2, 2.5, 1.2], [18, 2.5, 1.2], [2, -2.5, 1.2], [2, 9.5, 1.2], [2, 2.5, -1.2], [2, 2.5, 4.8],
    ]))
    expect(first).toHaveLength(6)
    for (const i of first) expect(i.factor).toBeCloseTo(0.9, 12)
  })
  it('counts 1, 6, 18 images of orders 0, 1, 2 (octahedron shells)', () => {
    const all = images(size, even, source, 2)
    expect([0, 1, 2].map(n => all.filter(i => i.order === n).length)).toEqual([1, 6, 18])
  })
  it('source and microphone may change places (reciprocity)', () => {
    const coordinate = (max: number) => fc.double({ min: 0.1, max: max - 0.1, noNaN: true })
    const place = fc.record({ x: coordinate(10), y: coordinate(6), z: coordinate(3) })
    fc.assert(fc.property(place, place, (a, b) => {
      const lengths = (from: typeof a, to: typeof a) => images(size, even, from, 2).map(i => distance(i.place, to)).sort((p, q) => p - q)
      lengths(a, b).forEach((d, k) => expect(d).toBeCloseTo(lengths(b, a)[k]!, 9))
    }), { numRuns: 30 })
  })
})
