import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { airLoss, coverage, distance, heightAt, images, pressureAt, speedOfSound } from './index'

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
    for (const h of [-100, 0, 450, 3000]) expect(heightAt(pressureAt(h))).toBeCloseTo(h, 6)
  })
})

describe('mirror images in a rectangular room', () => {
  const size = { x: 10, y: 6, z: 3 }, source = { x: 2, y: 2.5, z: 1.2 }
  it('the first order lies behind each wall at its own distance and met that wall once', () => {
    const first = images(size, source, 1).filter(i => i.order === 1)
    expect(first.map(i => [i.place.x, i.place.y, i.place.z])).toEqual(expect.arrayContaining([
      [-2, 2.5, 1.2], [18, 2.5, 1.2], [2, -2.5, 1.2], [2, 9.5, 1.2], [2, 2.5, -1.2], [2, 2.5, 4.8],
    ]))
    expect(first).toHaveLength(6)
    expect(first.find(i => i.place.x === 18)!.hits).toEqual({ front: 0, back: 1, left: 0, right: 0, floor: 0, ceiling: 0 })
    expect(first.find(i => i.place.z === -1.2)!.hits.floor).toBe(1)
  })
  it('counts 1, 6, 18 images of orders 0, 1, 2 (octahedron shells)', () => {
    const all = images(size, source, 2)
    expect([0, 1, 2].map(n => all.filter(i => i.order === n).length)).toEqual([1, 6, 18])
  })
  it('the second order of a corner path is as long as the room’s own geometry says', () => {
    const microphone = { x: 8, y: 1, z: 1.5 }
    const corner = images(size, source, 2).find(i => i.hits.back === 1 && i.hits.right === 1)!
    expect(distance(corner.place, microphone)).toBeCloseTo(Math.hypot((20 - 2) - 8, (12 - 2.5) - 1, 1.2 - 1.5), 12)
  })
  it('source and microphone may change places (reciprocity)', () => {
    const coordinate = (max: number) => fc.double({ min: 0.1, max: max - 0.1, noNaN: true })
    const place = fc.record({ x: coordinate(10), y: coordinate(6), z: coordinate(3) })
    fc.assert(fc.property(place, place, (a, b) => {
      const lengths = (from: typeof a, to: typeof a) => images(size, from, 2).map(i => distance(i.place, to)).sort((p, q) => p - q)
      lengths(a, b).forEach((d, k) => expect(d).toBeCloseTo(lengths(b, a)[k]!, 9))
    }), { numRuns: 30 })
  })
})

describe('the level map', () => {
  const size = { x: 40, y: 20, z: 10 }, air = { temperature: 20, humidity: 50, pressure: 101.325 }
  const down = { turn: 0, tilt: 90 }
  it('falls 6 dB a doubling of distance on the axis, and knows where the axis is', () => {
    const map = (z: number) => coverage(size, [{ model: 'top-12', place: { x: 20, y: 10, z }, aim: down }], air, 125, 0, 0.25)
    const under = (m: ReturnType<typeof coverage>) => Math.max(...m.levels)
    expect(under(map(4)) - under(map(8))).toBeCloseTo(6.02, 0)
    const { levels } = map(4)
    expect(levels.indexOf(under(map(4))) % map(4).columns).toBeGreaterThan(77)
  })
  it('two equal sources add 3 dB of power, none gives silence', () => {
    const one = { model: 'sub-18' as const, place: { x: 20, y: 10, z: 5 }, aim: down }
    const a = coverage(size, [one], air, 125, 1, 1), b = coverage(size, [one, one], air, 125, 1, 1)
    expect(b.levels[0]! - a.levels[0]!).toBeCloseTo(3.01, 2)
    expect(coverage(size, [], air, 125, 1, 1).levels[0]).toBe(-120)
  })
})
