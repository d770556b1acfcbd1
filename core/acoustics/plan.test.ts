import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import {
  airEnergyLoss,
  atFrequency,
  bounceAt,
  boundaryPower,
  cosineTo,
  direction,
  eyring,
  materials,
  octaveBands,
  firstDip,
  firstDips,
  nearSurfaces,
  patternFactor,
  roomAreas,
  sabine,
  startShelf,
  surroundings,
} from './index'

const still = octaveBands.map(() => 0)

describe('decay time', () => {
  const { volume, ...areas } = roomAreas({ size: { x: 10, y: 8, z: 4 }, outline: null })
  const even = (a: number) => Object.values(areas).map(area => ({ area, absorption: octaveBands.map(() => a) }))
  it('Sabine: 0.161 V/A (the handbook form, c = 343 m/s)', () => {
    const area = Object.values(areas).reduce((a, b) => a + b)
    expect(sabine(volume, even(0.1), still)[3]).toBeCloseTo((0.161 * volume) / (0.1 * area), 2)
  })
  it('Eyring equals Sabine where little is absorbed, and goes to nothing where all is', () => {
    expect(eyring(volume, even(0.01), still)[0]! / sabine(volume, even(0.01), still)[0]!).toBeCloseTo(1, 1)
    expect(eyring(volume, even(1), still)[0]).toBeLessThan(0.1)
  })
  it('air shortens the high octaves most', () => {
    const air = airEnergyLoss({ temperature: 20, humidity: 50, pressure: 101.325 })
    const with_ = sabine(volume, even(0.05), air)
    const without = sabine(volume, even(0.05), still)
    expect(with_[7]! / without[7]!).toBeLessThan(with_[3]! / without[3]!)
  })
  it('every material absorbs between nothing and all, and is read between its octaves', () => {
    for (const m of Object.values(materials))
      expect(m.absorption.every(a => a >= 0 && a <= 1) && m.absorption.length === octaveBands.length).toBe(true)
    expect(atFrequency([0, 1, 0, 0, 0, 0, 0, 0], 63 * Math.SQRT2)).toBeCloseTo(0.5, 6)
    expect(atFrequency([3, 1, 1, 1, 1, 1, 1, 4], 20)).toBe(3)
    expect(atFrequency([3, 1, 1, 1, 1, 1, 1, 4], 20_000)).toBe(4)
  })
})

describe('directivity', () => {
  it('the pattern’s mean energy over the sphere is 1/Q', () => {
    fc.assert(
      fc.property(fc.double({ min: 1, max: 20, noNaN: true }), (q) => {
        const n = 4000
        let sum = 0
        // solid angle is even in cos θ
        for (let k = 0; k < n; k++) sum += patternFactor(-1 + (2 * (k + 0.5)) / n, q) ** 2 / n
        expect(sum * q).toBeCloseTo(1, 2)
      }),
    )
  })
  it('an aim tilted down looks down, turned looks to house right', () => {
    expect(direction({ turn: 0, tilt: 90 }).z).toBeCloseTo(-1, 9)
    expect(direction({ turn: 90, tilt: 0 }).y).toBeCloseTo(1, 9)
    expect(cosineTo({ turn: 0, tilt: 0 }, { x: 0, y: 0, z: 0 }, { x: 3, y: 0, z: 0 })).toBeCloseTo(1, 9)
    expect(cosineTo({ turn: 0, tilt: 0 }, { x: 0, y: 0, z: 0 }, { x: 0, y: 0, z: 2 })).toBeCloseTo(0, 9)
  })
})

describe('near surfaces', () => {
  const c = 343.2
  it('a wall 1 m behind dips at about 86 Hz (references.md, quarter wavelength)', () => {
    const wall = { name: 'stage wall', distance: 1, out: { x: -1, y: 0, z: 0 } }
    const [source, desk] = [{ x: 1, y: 5, z: 3 }, { x: 15, y: 5, z: 3 }]
    expect(firstDip(wall, source, desk, c)).toBeCloseTo(85.8, 1)
    const at = Array.from({ length: 400 }, (_, k) => 40 + k * 0.5)
    const level = (f: number) => bounceAt([wall], source, desk, f, c)
    expect(at.reduce((best, f) => (level(f) < level(best) ? f : best))).toBeCloseTo(85.8, 0)
  })
  it('a floor dips by the difference of the ways: higher the farther one stands, never by a quarter wavelength', () => {
    const floor = { name: 'floor', distance: 2, out: { x: 0, y: 0, z: -1 } }
    const source = { x: 0, y: 0, z: 2 }
    const at = (x: number) => ({ x, y: 0, z: 1.2 })
    // ways of 10.032 and 10.499 m at 10 m: by Pythagoras
    const detour = Math.hypot(10, 3.2) - Math.hypot(10, 0.8)
    expect(firstDip(floor, source, at(10), c)).toBeCloseTo(c / (2 * detour), 9)
    const [low, high] = firstDips(floor, source, [at(5), at(10), at(20)], c)!
    expect([low, high]).toEqual([firstDip(floor, source, at(5), c), firstDip(floor, source, at(20), c)])
    expect(low).toBeGreaterThan(2 * (c / (4 * 2)))
    expect(firstDips(floor, source, [], c)).toBeNull()
    const touching = { ...floor, distance: 0.01 }
    expect(firstDips(touching, { ...source, z: 0.01 }, [at(5)], c)).toBeNull()
  })
  it('one, two, three surfaces add 3, 6, 9 dB of power far below and nothing far above (Waterhouse 1958)', () => {
    for (const n of [1, 2, 3]) {
      expect(
        boundaryPower(
          Array.from({ length: n }, () => 0.3),
          1,
          c,
        ),
      ).toBeCloseTo(10 * Math.log10(2 ** n), 2)
      expect(
        Math.abs(
          boundaryPower(
            Array.from({ length: n }, () => 0.3),
            15_000,
            c,
          ),
        ),
      ).toBeLessThan(0.3)
    }
  })
  it('the starting shelf takes back what the corner adds, and nothing in the open', () => {
    expect(startShelf([], c)).toBeNull()
    const shelf = startShelf([0.4, 0.5, 0.4], c)!
    expect(shelf.gain).toBeLessThan(-6)
    expect(shelf.gain).toBeGreaterThan(-9.5)
    expect(shelf.frequency).toBeGreaterThan(60)
    // a fill that plays from 105 Hz has no lows to take back; what plays only up to 100 Hz is judged up to there
    expect(startShelf([1.2, 2, 1], c)).not.toBeNull()
    expect(startShelf([1.2, 2, 1], c, [105, 16_000])).toBeNull()
    expect(startShelf([0.4], c, [500, 16_000])).toBeNull()
  })
  it('finds the nearest walls that meet, whatever way they stand', () => {
    const box = { size: { x: 20, y: 10, z: 5 }, outline: null }
    expect(surroundings(box, { x: 1, y: 9.5, z: 0.5 })).toEqual({
      walls: [
        { name: 'right wall', distance: 0.5, out: expect.anything() },
        { name: 'stage wall', distance: 1, out: expect.anything() },
      ],
      floor: 0.5,
      ceiling: 4.5,
      corner: Math.hypot(1, 0.5),
    })
    expect(nearSurfaces(box, { x: 10, y: 5, z: 2 }).map(s => s.name)).toEqual(['floor'])
    const fan = {
      size: { x: 10, y: 10, z: 5 },
      outline: [
        { x: 0, y: 4 },
        { x: 10, y: 0 },
        { x: 10, y: 10 },
        { x: 0, y: 6 },
      ],
    }
    const besideWall = surroundings(fan, { x: 5, y: 2 + 1, z: 1 }).walls[0]!
    expect(besideWall.name).toBe('left wall')
    // 1 m across from a wall that leans by atan 0.4
    expect(besideWall.distance).toBeCloseTo(Math.cos(Math.atan(0.4)), 9)
  })
})
