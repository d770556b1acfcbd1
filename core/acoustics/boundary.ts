import type { Decibels, Hertz, Metres, MetresPerSecond } from '../units'
import { rectangle, sideOf, wallDistance, wallsOf } from './outline'
import type { RoomShape } from './paths'
import type { Place } from './schemas'

/** A surface near a source. `name` says which: 'stage wall', 'floor'. */
export interface NearSurface {
  name: string
  distance: Metres
}

const wallNames = { front: 'stage wall', back: 'back wall', left: 'left wall', right: 'right wall' }

/** What stands around a place: walls and corner by their distance, floor, ceiling. */
export function surroundings(
  room: RoomShape,
  at: Place,
): { walls: NearSurface[], floor: Metres, ceiling: Metres, corner: Metres } {
  const outline = room.outline ?? rectangle(room.size.x, room.size.y)
  const walls = wallsOf(outline)
    .map(w => ({ name: wallNames[sideOf(w)], distance: wallDistance(w, at), out: w.out }))
    .sort((a, b) => a.distance - b.distance)
  // the same flat wall may be drawn in pieces, and an opposite wall makes no corner
  const second = walls.find(w => Math.abs(w.out.x * walls[0]!.out.x + w.out.y * walls[0]!.out.y) < 0.8)
  return {
    walls: [walls[0]!, ...(second ? [second] : [])].map(({ name, distance }) => ({ name, distance })),
    floor: at.z,
    ceiling: room.size.z - at.z,
    corner: Math.min(...outline.map(c => Math.hypot(c.x - at.x, c.y - at.y))),
  }
}

/**
 * The surfaces that colour a source: the two nearest walls that meet and the nearer of floor and ceiling, those
 * within 5 m.
 */
export function nearSurfaces(room: RoomShape, at: Place): NearSurface[] {
  const { walls, floor, ceiling } = surroundings(room, at)
  return [
    ...walls,
    floor <= ceiling ? { name: 'floor', distance: floor } : { name: 'ceiling', distance: ceiling },
  ].filter(s => s.distance < 5)
}

/**
 * Vectors (per axis 0 or 2d) to the images of a source before up to three surfaces at right angles, the source
 * itself first.
 */
const imageOffsets = (distances: readonly Metres[]): number[][] =>
  distances.reduce<number[][]>(
    (list, d) =>
      list.flatMap(v => [
        [...v, 0],
        [...v, 2 * d],
      ]),
    [[]],
  )

/**
 * Sound power of a small source near one to three rigid surfaces at right angles over that in the open, in dB:
 * 10 lg(Σ sin(kr)/(kr)) over its images. Source: Waterhouse 1958, J. Acoust. Soc. Am. 30, 4: +3 dB a surface
 * far below, 0 far above.
 */
export const boundaryPower = (distances: readonly Metres[], f: Hertz, c: MetresPerSecond): Decibels => {
  const k = (2 * Math.PI * f) / c
  const sum = imageOffsets(distances).reduce((total, v) => {
    const kr = k * Math.hypot(...v)
    return total + (kr === 0 ? 1 : Math.sin(kr) / kr)
  }, 0)
  return 10 * Math.log10(Math.max(1e-3, sum))
}

/**
 * Frequency of the first dip straight in front of a source `distance` before a wall: a quarter wavelength,
 * c/(4d). 1 m gives 86 Hz.
 */
export const bounceDip = (distance: Metres, c: MetresPerSecond): Hertz => c / (4 * distance)

/**
 * Level straight in front of a source with surfaces around it, in dB over the open: the source and its images
 * summed with their
 * path differences 2d, each reflection keeping `reflection` (0…1) of the pressure.
 */
export function bounceOnAxis(
  distances: readonly Metres[],
  f: Hertz,
  c: MetresPerSecond,
  reflection = 0.85,
): Decibels {
  const k = (2 * Math.PI * f) / c
  let re = 0
  let im = 0
  for (const v of imageOffsets(distances)) {
    const hits = v.filter(x => x > 0).length
    const path = v.reduce((a, b) => a + b, 0)
    re += reflection ** hits * Math.cos(k * path)
    im -= reflection ** hits * Math.sin(k * path)
  }
  return 20 * Math.log10(Math.max(1e-3, Math.hypot(re, im)))
}

/**
 * The low shelf to begin with: minus what the surfaces add at 40 Hz against 400 Hz, in half decibels, at the
 * frequency where half of
 * it is reached. Null where they add under 1 dB (nothing to take back).
 */
export function startShelf(
  distances: readonly Metres[],
  c: MetresPerSecond,
): { gain: Decibels, frequency: Hertz } | null {
  const level = (f: Hertz) => boundaryPower(distances, f, c)
  const gain = level(40) - level(400)
  if (gain < 1) return null
  let f = 40
  while (f < 400 && level(f) - level(400) > gain / 2) f *= 1.02
  return { gain: -Math.round(gain * 2) / 2, frequency: Math.round(f) }
}
