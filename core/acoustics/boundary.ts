import type { Decibels, Hertz, Metres, MetresPerSecond } from '../units'
import { rectangle, sideOf, wallDistance, wallsOf } from './outline'
import type { RoomShape } from './paths'
import { distance } from './room'
import type { Place } from './schemas'
import { phrase } from '../words'

/** A surface near a source. `name` says which: 'stage wall', 'floor'; `out` points from the source straight to it. */
export interface NearSurface {
  name: string
  distance: Metres
  out: Place
}

const wallNames = { front: 'wall.front', back: 'wall.back', left: 'wall.left', right: 'wall.right' } as const

/** What stands around a place: walls and corner by their distance, floor, ceiling. */
export function surroundings(
  room: RoomShape,
  at: Place,
): { walls: NearSurface[], floor: Metres, ceiling: Metres, corner: Metres } {
  const outline = room.outline ?? rectangle(room.size.x, room.size.y)
  const walls = wallsOf(outline)
    .map(w => ({ name: phrase(wallNames[sideOf(w)]), distance: wallDistance(w, at), out: { ...w.out, z: 0 } }))
    .sort((a, b) => a.distance - b.distance)
  // the same flat wall may be drawn in pieces, and an opposite wall makes no corner
  const second = walls.find(w => Math.abs(w.out.x * walls[0]!.out.x + w.out.y * walls[0]!.out.y) < 0.8)
  return {
    walls: [walls[0]!, ...(second ? [second] : [])],
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
    floor <= ceiling
      ? { name: phrase('acoustics.floor'), distance: floor, out: { x: 0, y: 0, z: -1 } }
      : { name: phrase('acoustics.ceiling'), distance: ceiling, out: { x: 0, y: 0, z: 1 } },
  ].filter(s => s.distance < 5)
}

/** Vectors to the images of a source before up to three surfaces at right angles, the source itself first. */
const imageOffsets = (surfaces: readonly { distance: Metres, out: Place }[]): { by: Place, hits: number }[] =>
  surfaces.reduce(
    (list, { distance: d, out }) => list.flatMap(({ by, hits }) => [
      { by, hits },
      { by: { x: by.x + 2 * d * out.x, y: by.y + 2 * d * out.y, z: by.z + 2 * d * out.z }, hits: hits + 1 },
    ]),
    [{ by: { x: 0, y: 0, z: 0 }, hits: 0 }],
  )

const added = (a: Place, b: Place): Place => ({ x: a.x + b.x, y: a.y + b.y, z: a.z + b.z })
const axes: readonly Place[] = [{ x: 1, y: 0, z: 0 }, { x: 0, y: 1, z: 0 }, { x: 0, y: 0, z: 1 }]

/**
 * Sound power of a small source near one to three rigid surfaces at right angles over that in the open, in dB:
 * 10 lg(Σ sin(kr)/(kr)) over its images. Source: Waterhouse 1958, J. Acoust. Soc. Am. 30, 4: +3 dB a surface
 * far below, 0 far above.
 */
export const boundaryPower = (distances: readonly Metres[], f: Hertz, c: MetresPerSecond): Decibels => {
  const k = (2 * Math.PI * f) / c
  const surfaces = distances.map((d, n) => ({ distance: d, out: axes[n]! }))
  const sum = imageOffsets(surfaces).reduce((total, { by }) => {
    const kr = k * Math.hypot(by.x, by.y, by.z)
    return total + (kr === 0 ? 1 : Math.sin(kr) / kr)
  }, 0)
  return 10 * Math.log10(Math.max(1e-3, sum))
}

/**
 * Frequency of the first dip that a surface makes at a position: where the way by its image is half a wavelength
 * longer than the way straight there (Δ = c/(2f)). Straight in front of a wall that is c/(4d): 86 Hz at 1 m; before a
 * floor or a side wall it is higher, and another at each position. Infinite where both ways are one.
 */
export function firstDip({ distance: d, out }: NearSurface, at: Place, position: Place, c: MetresPerSecond): Hertz {
  const image = added(at, { x: 2 * d * out.x, y: 2 * d * out.y, z: 2 * d * out.z })
  return c / (2 * Math.max(0, distance(image, position) - distance(at, position)))
}

/** A surface nearer than this is part of the source: its dips lie above what it colours. */
const touching: Metres = 0.05

/** Lowest and highest first dip of a surface over the positions; null without positions, or where it touches. */
export function firstDips(
  surface: NearSurface,
  at: Place,
  positions: readonly Place[],
  c: MetresPerSecond,
): [low: Hertz, high: Hertz] | null {
  const dips = positions.map(p => firstDip(surface, at, p, c)).filter(Number.isFinite)
  return dips.length && surface.distance > touching ? [Math.min(...dips), Math.max(...dips)] : null
}

/**
 * Level at a position of a source with surfaces around it, in dB over the open: the source and its images summed by
 * the lengths of their ways, each reflection keeping `reflection` (0…1) of the pressure.
 */
export function bounceAt(
  surfaces: readonly NearSurface[],
  at: Place,
  position: Place,
  f: Hertz,
  c: MetresPerSecond,
  reflection = 0.85,
): Decibels {
  const k = (2 * Math.PI * f) / c
  const straight = Math.max(1e-3, distance(at, position))
  let re = 0
  let im = 0
  for (const { by, hits } of imageOffsets(surfaces)) {
    const way = Math.max(1e-3, distance(added(at, by), position))
    const left = (reflection ** hits * straight) / way
    re += left * Math.cos(k * (way - straight))
    im -= left * Math.sin(k * (way - straight))
  }
  return 20 * Math.log10(Math.max(1e-3, Math.hypot(re, im)))
}

/**
 * The low shelf to begin with: minus what the surfaces add at 40 Hz against 400 Hz, or from where the source plays to
 * where it ends, in half decibels, at the frequency where half of it is reached. Null where they add under 1 dB there
 * (nothing to take back).
 */
export function startShelf(
  distances: readonly Metres[],
  c: MetresPerSecond,
  [plays, ends]: readonly [low: Hertz, high: Hertz] = [40, 400],
): { gain: Decibels, frequency: Hertz } | null {
  const level = (f: Hertz) => boundaryPower(distances, f, c)
  const low = Math.max(40, plays)
  const high = Math.min(400, ends)
  if (!(high > low)) return null
  const gain = level(low) - level(high)
  if (gain < 1) return null
  let f = low
  while (f < high && level(f) - level(high) > gain / 2) f *= 1.02
  return { gain: -Math.round(gain * 2) / 2, frequency: Math.round(f) }
}
