import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { seededRandom } from '../dsp'
import { scipy } from '../reference/scipy'
import {
  airLoss,
  areaOf,
  coverage,
  distance,
  heightAt,
  images,
  isInside,
  outlineFaults,
  pressureAt,
  rectangle,
  roomAreas,
  roomiest,
  sideOf,
  soundPaths,
  speedOfSound,
  wallDistance,
  wallsOf,
} from './index'

describe('air', () => {
  const airOf = (temperature: number, humidity: number, pressure = 101.325) => ({ temperature, humidity, pressure })
  it('speed of sound in dry air', () => {
    // references.md: 331.3 m/s at 0 °C, 343.2 m/s at 20 °C
    expect(speedOfSound(airOf(0, 0))).toBeCloseTo(331.3, 1)
    expect(speedOfSound(airOf(20, 0))).toBeCloseTo(343.2, 6)
  })
  it('humidity makes sound faster, as Cramer measured it', () => {
    // O. Cramer, J. Acoust. Soc. Am. 93 (1993) 2510, eq. (15), without carbon dioxide and squares (values from memory)
    const faster = (t: number, water: number) => (51.471935 + 0.1495874 * t - 0.000782 * t * t) * water
    // molar part of water at saturation and 101.325 kPa (common practice: steam tables)
    for (const [t, saturated] of [[0, 0.00603], [10, 0.01212], [20, 0.02308], [30, 0.04190]] as const)
      for (const humidity of [20, 50, 100]) {
        const gain = speedOfSound(airOf(t, humidity)) - speedOfSound(airOf(t, 0))
        expect(Math.abs(gain - faster(t, (saturated * humidity) / 100)), `${t} °C, ${humidity} %`).toBeLessThan(0.08)
      }
  })
  it('thinner air holds more water for its mass: high up humidity counts for more', () => {
    expect(speedOfSound(airOf(25, 60, 80))).toBeGreaterThan(speedOfSound(airOf(25, 60)))
    expect(speedOfSound(airOf(25, 0, 80))).toBe(speedOfSound(airOf(25, 0)))
  })
  it('loss within 1 % of ISO 9613-1, 50 Hz to 10 kHz, -20 to 50 °C, from its own equations in numpy', async () => {
    // core/reference/scipy_service.py writes eqs (3) to (5) out anew, in decibels from nepers, without the
    // rounded 8.686 of ours
    const frequencies = [50, 100, 250, 500, 1000, 2000, 4000, 8000, 10_000]
    for (const temperature of [-20, -5, 0, 10, 20, 30, 40, 50])
      for (const humidity of [10, 30, 50, 70, 100])
        for (const pressure of [80, 101.325]) {
          const truth = await scipy<number[]>('air_loss', { frequencies, temperature, humidity, pressure })
          frequencies.forEach((f, k) =>
            expect(
              Math.abs(airLoss(f, { temperature, humidity, pressure }) / truth[k]! - 1),
              `${f} Hz, ${temperature} °C, ${humidity} %`,
            ).toBeLessThan(0.01),
          )
        }
  })
  // ISO 9613-1 table 1, 101.325 kPa, in dB/km (values from memory, hence 3 %): guards both against the same slip
  it.each([
    [20, 50, 1000, 4.66],
    [20, 50, 4000, 29.7],
    [20, 50, 8000, 105],
    [10, 70, 1000, 3.66],
    [10, 70, 8000, 117],
    [20, 70, 2000, 9.0],
    [15, 50, 250, 1.2],
  ])('loss at %d °C, %d %%, %d Hz is %d dB/km', (temperature, humidity, f, loss) => {
    expect(Math.abs((1000 * airLoss(f, { temperature, humidity, pressure: 101.325 })) / loss - 1)).toBeLessThan(
      0.03,
    )
  })
  it('pressure falls by about 11.3 % in the first kilometre (ISO 2533)', () => {
    expect(pressureAt(0)).toBe(101.325)
    expect(pressureAt(1000)).toBeCloseTo(89.87, 1)
    for (const h of [-100, 0, 450, 3000]) expect(heightAt(pressureAt(h))).toBeCloseTo(h, 6)
  })
})

describe('mirror images in a rectangular room', () => {
  const size = { x: 10, y: 6, z: 3 }
  const source = { x: 2, y: 2.5, z: 1.2 }
  it('the first order lies behind each wall at its own distance and met that wall once', () => {
    const first = images(size, source, 1).filter(i => i.order === 1)
    expect(first.map(i => [i.place.x, i.place.y, i.place.z])).toEqual(
      expect.arrayContaining([
        [-2, 2.5, 1.2],
        [18, 2.5, 1.2],
        [2, -2.5, 1.2],
        [2, 9.5, 1.2],
        [2, 2.5, -1.2],
        [2, 2.5, 4.8],
      ]),
    )
    expect(first).toHaveLength(6)
    expect(first.find(i => i.place.x === 18)!.hits).toEqual({
      front: 0,
      back: 1,
      left: 0,
      right: 0,
      floor: 0,
      ceiling: 0,
    })
    expect(first.find(i => i.place.z === -1.2)!.hits.floor).toBe(1)
  })
  it('counts 1, 6, 18 images of orders 0, 1, 2 (octahedron shells)', () => {
    const all = images(size, source, 2)
    expect([0, 1, 2].map(n => all.filter(i => i.order === n).length)).toEqual([1, 6, 18])
  })
  it('the second order of a corner path is as long as the room’s own geometry says', () => {
    const microphone = { x: 8, y: 1, z: 1.5 }
    const corner = images(size, source, 2).find(i => i.hits.back === 1 && i.hits.right === 1)!
    expect(distance(corner.place, microphone)).toBeCloseTo(Math.hypot(20 - 2 - 8, 12 - 2.5 - 1, 1.2 - 1.5), 12)
  })
  it('source and microphone may change places (reciprocity)', () => {
    const coordinate = (max: number) => fc.double({ min: 0.1, max: max - 0.1, noNaN: true })
    const place = fc.record({ x: coordinate(10), y: coordinate(6), z: coordinate(3) })
    fc.assert(
      fc.property(place, place, (a, b) => {
        const lengths = (from: typeof a, to: typeof a) =>
          images(size, from, 2)
            .map(i => distance(i.place, to))
            .sort((p, q) => p - q)
        lengths(a, b).forEach((d, k) => expect(d).toBeCloseTo(lengths(b, a)[k]!, 9))
      }),
      { numRuns: 30 },
    )
  })
})

describe('ways of the sound in a room drawn by its corners', () => {
  const size = { x: 10, y: 6, z: 3 }
  it('a rectangle drawn by corners has the same ways as Allen & Berkley’s, up to the third order', () => {
    // even chances, not fast-check's: a way exactly through a corner (both places at an edge value) belongs to
    // either wall
    const random = seededRandom(7)
    const place = () => ({ x: 10 * random(), y: 6 * random(), z: 3 * random() })
    for (let n = 0; n < 60; n++) {
      const [a, b] = [place(), place()]
      const drawn = soundPaths({ size, outline: rectangle(10, 6) }, a, b, 3)
      const known = soundPaths({ size, outline: null }, a, b, 3)
      expect(drawn).toHaveLength(known.length)
      const lengths = (list: typeof drawn) => list.map(p => p.length).sort((p, q) => p - q)
      lengths(drawn).forEach((l, k) => expect(l).toBeCloseTo(lengths(known)[k]!, 6))
      for (const side of ['front', 'back', 'left', 'right', 'floor', 'ceiling'] as const) {
        const hits = (list: typeof drawn) => list.reduce((sum, p) => sum + p.hits[side], 0)
        expect(hits(drawn)).toBe(hits(known))
      }
    }
  })
  it('a wall askew mirrors by its own line, and a corner in between hides what is behind it', () => {
    // a right-angled triangle with its long wall from (6, 0) to (0, 6): the mirror of (1, 1) in x + y = 6 is (5, 5)
    const triangle = {
      size: { x: 6, y: 6, z: 3 },
      outline: [
        { x: 0, y: 0 },
        { x: 6, y: 0 },
        { x: 0, y: 6 },
      ],
    }
    const [from, to] = [
      { x: 1, y: 1, z: 1 },
      { x: 2, y: 1, z: 1 },
    ]
    const ways = soundPaths(triangle, from, to, 1).filter(p => p.hits.floor + p.hits.ceiling === 0)
    expect(ways.map(p => p.length)).toEqual(expect.arrayContaining([expect.closeTo(Math.hypot(5 - 2, 5 - 1), 9)]))
    const bend = {
      size: { x: 8, y: 8, z: 3 },
      outline: [
        { x: 0, y: 0 },
        { x: 8, y: 0 },
        { x: 8, y: 3 },
        { x: 3, y: 3 },
        { x: 3, y: 8 },
        { x: 0, y: 8 },
      ],
    }
    expect(soundPaths(bend, { x: 1, y: 7, z: 1 }, { x: 7, y: 1, z: 1 }, 2).some(p => p.order === 0)).toBe(false)
    expect(soundPaths(bend, { x: 1, y: 7, z: 1 }, { x: 1, y: 1, z: 1 }, 0)).toHaveLength(1)
  })
})

describe('outlines', () => {
  it('area, walls, inside and out of an L', () => {
    const bend = [
      { x: 0, y: 0 },
      { x: 8, y: 0 },
      { x: 8, y: 3 },
      { x: 3, y: 3 },
      { x: 3, y: 8 },
      { x: 0, y: 8 },
    ]
    expect(areaOf(bend)).toBeCloseTo(39, 9)
    expect(areaOf([...bend].reverse())).toBeCloseTo(39, 9)
    expect(wallsOf(bend).map(sideOf)).toEqual(['left', 'back', 'right', 'back', 'right', 'front'])
    expect(
      wallsOf([...bend].reverse())
        .map(sideOf)
        .sort(),
    ).toEqual(wallsOf(bend).map(sideOf).sort())
    expect(isInside(bend, { x: 1, y: 7 }) && isInside(bend, { x: 8, y: 3 })).toBe(true)
    expect(isInside(bend, { x: 5, y: 5 })).toBe(false)
    // the inner corner leaves a circle of 1.76 m
    expect(Math.min(...wallsOf(bend).map(w => wallDistance(w, roomiest(bend))))).toBeCloseTo(3 / 2 + 0.25, 0)
    expect(roomAreas({ size: { x: 8, y: 8, z: 2 }, outline: bend })).toMatchObject({
      volume: 78,
      front: 16,
      back: 16,
      left: 16,
      right: 16,
      floor: 39,
    })
  })
  it('refuses what cannot be built, and says which wall', () => {
    expect(outlineFaults(rectangle(5, 4), 'The room')).toEqual([])
    expect(
      outlineFaults(
        [
          { x: 0, y: 0 },
          { x: 5, y: 0 },
          { x: 5, y: 0 },
          { x: 0, y: 4 },
        ],
        'The room',
      )[0],
    ).toEqual(expect.saying('The room has a wall of no length between its corners 2 and 3.'))
    expect(
      outlineFaults(
        [
          { x: 0, y: 0 },
          { x: 5, y: 4 },
          { x: 5, y: 0 },
          { x: 0, y: 4 },
        ],
        'The room',
      )[0],
    ).toEqual(expect.saying('crosses itself'))
    expect(
      outlineFaults(
        [
          { x: 0, y: 0 },
          { x: 5, y: 0 },
        ],
        'Stalls',
      )[0],
    ).toEqual(expect.saying('three corners'))
  })
})

describe('the level map', () => {
  const size = { x: 40, y: 20, z: 10 }
  const air = { temperature: 20, humidity: 50, pressure: 101.325 }
  const down = { turn: 0, tilt: 90 }
  const floor = (height: number, step: number) => {
    const places: number[] = []
    for (let y = step / 2; y < size.y; y += step)
      for (let x = step / 2; x < size.x; x += step) places.push(x, y, height)
    return Float32Array.from(places)
  }
  it('falls 6 dB a doubling of distance on the axis, and knows where the axis is', () => {
    const places = floor(0, 0.25)
    const map = (z: number) =>
      coverage(places, [{ level: 100, q: 2, place: { x: 20, y: 10, z }, aim: down }], air, 125).levels
    const under = (levels: Float32Array) => levels.indexOf(Math.max(...levels))
    expect(map(4)[under(map(4))]! - map(8)[under(map(8))]!).toBeCloseTo(6.02, 0)
    expect(Math.abs(places[3 * under(map(4))]! - 20)).toBeLessThan(0.2)
  })
  it('two equal sources add 3 dB of power, none gives silence', () => {
    const one = { level: 100, q: 1.2, place: { x: 20, y: 10, z: 5 }, aim: down }
    const a = coverage(floor(1, 1), [one], air, 125)
    const b = coverage(floor(1, 1), [one, one], air, 125)
    expect(b.levels[0]! - a.levels[0]!).toBeCloseTo(3.01, 2)
    expect(coverage(floor(1, 1), [], air, 125).levels[0]).toBe(-120)
    expect(coverage(new Float32Array(0), [one], air, 125).spread).toBe(0)
  })
})
