import type { Seconds } from '../units'
import type { PerOctave } from './materials'
import { areaOf, rectangle, sideOf, wallsOf } from './outline'
import type { RoomShape } from './paths'

/** Part of a room's boundary: its area in m² and absorption per octave. */
export interface Boundary {
  area: number
  absorption: PerOctave
}

/** 24 ln 10 / c at 20 °C: the constant of both formulas, in s/m. */
const constant = (24 * Math.LN10) / 343.2

/**
 * Decay time per octave by Sabine: T = 55.3/c · V / (A + 4mV). `volume` in m³, `air` the energy attenuation m
 * per metre and octave.
 * Source: Kuttruff, Room Acoustics, eq. (5.24). An open boundary gives short times, never zero.
 */
export const sabine = (volume: number, boundaries: readonly Boundary[], air: PerOctave): Seconds[] =>
  air.map(
    (m, o) =>
      (constant * volume) / (boundaries.reduce((sum, b) => sum + b.area * b.absorption[o]!, 0) + 4 * m * volume),
  )

/**
 * Decay time per octave by Eyring: T = 55.3/c · V / (-S ln(1 - mean α) + 4mV). Source: Eyring 1930; Kuttruff
 * eq. (5.23).
 */
export function eyring(volume: number, boundaries: readonly Boundary[], air: PerOctave): Seconds[] {
  const area = boundaries.reduce((sum, b) => sum + b.area, 0)
  return air.map((m, o) => {
    const mean = Math.min(0.9999, boundaries.reduce((sum, b) => sum + b.area * b.absorption[o]!, 0) / area)
    return (constant * volume) / (-area * Math.log(1 - mean) + 4 * m * volume)
  })
}

/** Volume and the areas of a room's six sides; a wall that stands askew counts to the side it faces most. */
export function roomAreas({ size, outline }: RoomShape) {
  const shape = outline ?? rectangle(size.x, size.y)
  const floor = areaOf(shape)
  const walls = { front: 0, back: 0, left: 0, right: 0 }
  for (const w of wallsOf(shape)) walls[sideOf(w)] += w.length * size.z
  return { volume: floor * size.z, ...walls, floor, ceiling: floor }
}
