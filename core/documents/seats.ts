import { boundsOf, isInside, rectangle, type Outline, type Place, type RoomShape } from '../acoustics'
import type { Metres } from '../units'
import type { Area } from './plan'

/** One seat or standing place; `row` and `seat` count from 1, `place` is where its ears are. */
export interface Seat {
  row: number
  seat: number
  place: Place
}

/** Height of an area's floor at `x`: level, or rising evenly from its front to its back. */
export function floorAt(area: Area, x: Metres): Metres {
  const [front, back] = boundsOf(area.outline).x
  return (
    area.floor
    + (area.rear - area.floor) * (back > front ? Math.max(0, Math.min(1, (x - front) / (back - front))) : 0)
  )
}

const cells = (outline: Outline, alongStep: Metres, acrossStep: Metres) => {
  const {
    x: [x0, x1],
    y: [y0, y1],
  } = boundsOf(outline)
  const columns = Math.floor((x1 - x0) / alongStep + 1e-9)
  const rows = Math.floor((y1 - y0) / acrossStep + 1e-9)
  const middle = (y0 + y1) / 2 - (rows * acrossStep) / 2
  return {
    columns,
    rows,
    x: (k: number) => x0 + (k + 0.5) * alongStep,
    y: (k: number) => middle + (k + 0.5) * acrossStep,
  }
}

/** How many places an area could have at most, without laying them out. */
export const mostSeats = ({ outline, rows, seats }: Pick<Area, 'outline' | 'rows' | 'seats'>): number => {
  const grid = cells(outline, rows, seats)
  return grid.columns * grid.rows
}

/**
 * The seats of an area: rows from its front to its back, seats from house left to right, those within its
 * outline. A stage has none.
 */
export function seatsOf(area: Area): Seat[] {
  if (area.kind === 'stage') return []
  const grid = cells(area.outline, area.rows, area.seats)
  const seats: Seat[] = []
  const tidy = (v: number) => Math.round(v * 1000) / 1000
  for (let row = 0; row < grid.columns; row++) {
    let seat = 0
    for (let k = 0; k < grid.rows; k++) {
      const at = { x: tidy(grid.x(row)), y: tidy(grid.y(k)) }
      if (isInside(area.outline, at))
        seats.push({ row: row + 1, seat: ++seat, place: { ...at, z: tidy(floorAt(area, at.x) + area.ear) } })
    }
  }
  return seats
}

/**
 * `count` seats spread evenly over an area: as square a grid of rows and seats as fits, each in the middle of
 * its part.
 */
export function spreadSeats(area: Area, count: number): Seat[] {
  const all = seatsOf(area)
  const { x, y } = boundsOf(area.outline)
  const long = x[1] - x[0]
  const wide = y[1] - y[0]
  const alongCount = Math.max(1, Math.min(count, Math.round(Math.sqrt((count * long) / wide))))
  const acrossCount = Math.ceil(count / alongCount)
  const chosen: Seat[] = []
  for (let n = 0; n < count && chosen.length < all.length; n++) {
    const wish = {
      x: x[0] + ((Math.floor(n / acrossCount) + 0.5) / alongCount) * long,
      y: y[0] + (((n % acrossCount) + 0.5) / acrossCount) * wide,
    }
    const left = all.filter(s => !chosen.includes(s))
    chosen.push(
      left.reduce((a, b) =>
        Math.hypot(b.place.x - wish.x, b.place.y - wish.y) < Math.hypot(a.place.x - wish.x, a.place.y - wish.y)
          ? b
          : a,
      ),
    )
  }
  return chosen
}

/** The floor of a room without seating, as places `step` apart at ear height. */
export function floorPlaces(room: RoomShape, ear: Metres, step: Metres): Place[] {
  const outline = room.outline ?? rectangle(room.size.x, room.size.y)
  const grid = cells(outline, step, step)
  const places: Place[] = []
  for (let c = 0; c < grid.columns; c++)
    for (let r = 0; r < grid.rows; r++) {
      const at = { x: grid.x(c), y: grid.y(r) }
      if (isInside(outline, at)) places.push({ ...at, z: ear })
    }
  return places
}
