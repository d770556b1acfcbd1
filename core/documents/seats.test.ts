import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { isInside, rectangle } from '../acoustics'
import { ropewalk } from '../../standins/ropewalk/site'
import {
  allOf,
  contentOf,
  floorAt,
  floorPlaces,
  mostSeats,
  planFaults,
  seatsOf,
  spreadSeats,
  type Area,
  type Plan,
} from './index'

const area: Area = {
  id: 'a',
  name: 'Stalls',
  order: 0,
  kind: 'seating',
  outline: rectangle(10, 6),
  floor: 0,
  rear: 2,
  rows: 1,
  seats: 0.6,
  ear: 1.2,
}

describe('seats', () => {
  it('stand in rows from front to back, on the rising floor, ears above it', () => {
    const seats = seatsOf(area)
    expect(seats).toHaveLength(10 * 10)
    expect(seats[0]).toEqual({ row: 1, seat: 1, place: { x: 0.5, y: 0.3, z: 1.3 } })
    expect(seats.at(-1)).toEqual({ row: 10, seat: 10, place: { x: 9.5, y: 5.7, z: 3.1 } })
    expect(floorAt(area, 5)).toBe(1)
    expect(seatsOf({ ...area, kind: 'stage' })).toEqual([])
  })
  it('lie within the outline, whatever its shape, and never exceed what is announced', () => {
    const corner = fc.record({
      x: fc.double({ min: 0, max: 20, noNaN: true }),
      y: fc.double({ min: 0, max: 20, noNaN: true }),
    })
    fc.assert(
      fc.property(fc.array(corner, { minLength: 3, maxLength: 7 }), (outline) => {
        const seats = seatsOf({ ...area, outline })
        expect(seats.length).toBeLessThanOrEqual(mostSeats({ ...area, outline }))
        expect(seats.every(s => isInside(outline, s.place))).toBe(true)
      }),
    )
  })
  it('positions are spread evenly and never twice on a seat', () => {
    const six = spreadSeats(area, 6)
    expect(new Set(six.map(s => `${s.row}/${s.seat}`)).size).toBe(6)
    const middle = six.reduce((sum, s) => sum + s.place.x, 0) / 6
    expect(Math.abs(middle - 5)).toBeLessThan(0.6)
    expect(spreadSeats({ ...area, outline: rectangle(1, 0.7) }, 5)).toHaveLength(1)
  })
  it('a floor without seats is covered within its walls', () => {
    const bend = [
      { x: 0, y: 0 },
      { x: 8, y: 0 },
      { x: 8, y: 3 },
      { x: 3, y: 3 },
      { x: 3, y: 8 },
      { x: 0, y: 8 },
    ]
    const places = floorPlaces({ size: { x: 8, y: 8, z: 3 }, outline: bend }, 1.2, 0.5)
    expect(places).toHaveLength(39 * 4)
  })
})

describe('plans that cannot be', () => {
  const plan = contentOf(ropewalk.documents, 'plan')!
  const standing = {
    areas: allOf(ropewalk.documents, 'area'),
    sources: allOf(ropewalk.documents, 'source'),
    positions: allOf(ropewalk.documents, 'position'),
  }
  const faults = (room: Partial<Plan['room']>, areas = standing.areas) =>
    planFaults({ ...plan, room: { ...plan.room, ...room } }, { ...standing, areas })
  it('the demo can be', () => {
    expect(faults({})).toEqual([])
  })
  it.each([
    [
      'a wall of no length',
      faults({
        outline: [
          { x: 0, y: 0 },
          { x: 31, y: 0 },
          { x: 31, y: 0 },
          { x: 0, y: 14 },
        ],
      }),
      'no length',
    ],
    [
      'a source behind a slanting wall',
      faults({
        outline: [
          { x: 0, y: 0 },
          { x: 31, y: 13 },
          { x: 31, y: 14 },
          { x: 0, y: 14 },
        ],
      }),
      'stands outside the room',
    ],
    ['corners beyond the size', faults({ outline: rectangle(40, 14) }), 'must reach from 0'],
    ['an area outside', faults({}, [{ ...area, outline: rectangle(40, 5) }]), 'Stalls reaches outside'],
    ['an area above the ceiling', faults({}, [{ ...area, rear: 9 }]), 'Stalls reaches outside'],
    [
      'too many places',
      faults(
        {},
        Array.from({ length: 40 }, (_, n) => ({
          ...area,
          id: `a${n}`,
          outline: rectangle(30, 14),
          rows: 0.5,
          seats: 0.4,
        })),
      ),
      'at most 20000',
    ],
  ])('%s is refused with the reason', (_, found, words) => {
    expect(found).toContainEqual(expect.saying(words))
  })
})
