import { boundsOf, isInside, outlineFaults, type Place } from '../acoustics'
import type { Area, Plan, Position, Source } from './plan'
import { mostSeats } from './seats'
import { message, type Message } from '../words'

/** Most places that the areas of a site may have together. */
const mostPlaces = 20_000

/** What stands in a room. */
export interface Standing {
  areas: readonly Area[]
  sources: readonly Source[]
  positions: readonly Position[]
}

function wallFaults({ room: { size, outline } }: Plan, areas: readonly Area[]): Message[] {
  const broken = [
    ...(outline ? outlineFaults(outline, 'The room') : []),
    ...areas.flatMap(a => outlineFaults(a.outline, a.name)),
  ]
  if (broken.length || !outline) return broken
  const { x, y } = boundsOf(outline)
  const fits = x[0] === 0 && y[0] === 0 && Math.abs(x[1] - size.x) <= 0.001 && Math.abs(y[1] - size.y) <= 0.001
  if (fits) return []
  return [message('plan.corners', { length: size.x, width: size.y })]
}

/**
 * Why a plan cannot be: walls that do not close, everything that stands outside the room. Empty when it can.
 */
export function planFaults(plan: Plan, { areas, sources, positions }: Standing): Message[] {
  const broken = wallFaults(plan, areas)
  if (broken.length) return broken
  const { size, outline } = plan.room
  const floor = (p: { x: number, y: number }) =>
    p.x >= 0 && p.x <= size.x && p.y >= 0 && p.y <= size.y && (!outline || isInside(outline, p))
  const inside = (p: Place) => p.z >= 0 && p.z <= size.z && floor(p)
  const where = (p: Place) => `${p.x} / ${p.y} / ${p.z} m`
  const named = (name: string, place: Place) => ({ name, place: where(place), size: where(size) })
  const places = areas.reduce((sum, a) => sum + (a.kind === 'stage' ? 0 : mostSeats(a)), 0)
  return [
    ...sources.flatMap(s =>
      s.elements.filter(e => !inside(e.place)).map(e => message('plan.sourceOutside', named(s.name, e.place))),
    ),
    ...positions.filter(p => !inside(p.place)).map(p => message('plan.positionOutside', named(p.name, p.place))),
    ...areas
      .filter(a => !a.outline.every(floor) || Math.max(a.floor, a.rear) > size.z)
      .map(a => message('plan.areaOutside', { name: a.name, size: where(size) })),
    ...(places > mostPlaces ? [message('plan.manyPlaces', { places, most: mostPlaces })] : []),
  ]
}
