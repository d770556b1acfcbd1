import { airLoss, type Air } from './air'
import { cosineTo, patternFactor, type Aim } from './directivity'
import { loudspeakerKinds, type LoudspeakerId } from './loudspeakers'
import { atFrequency } from './materials'
import { distance, type Place } from './room'
import type { Decibels, Hertz, Metres } from '../units'

export interface Radiator { model: LoudspeakerId, place: Place, aim: Aim }

/** A level map on a regular grid at one height; row by row along x, `columns` × `rows` values in dB. */
export interface Coverage { columns: number, rows: number, step: Metres, levels: Float32Array, /** 90 % of the area lies within so many dB. */ spread: Decibels }

/**
 * Direct level of all radiators at `height` over a room of `size`, at one frequency: 1/r, directivity, the air's loss; powers summed
 * (different sources carry different distances, so their phases say nothing of a whole octave). `step` in metres.
 */
export function coverage(size: Place, radiators: readonly Radiator[], air: Air, f: Hertz, height: Metres, step: Metres): Coverage {
  const columns = Math.max(1, Math.round(size.x / step)), rows = Math.max(1, Math.round(size.y / step))
  const levels = new Float32Array(columns * rows), loss = airLoss(f, air), at: Place = { x: 0, y: 0, z: height }
  const sources = radiators.map(r => ({ ...r, q: atFrequency(loudspeakerKinds[r.model].q, f), power: 10 ** (loudspeakerKinds[r.model].level / 10) }))
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      at.x = (column + 0.5) * size.x / columns
      at.y = (row + 0.5) * size.y / rows
      let power = 0
      for (const s of sources) {
        const r = Math.max(0.3, distance(s.place, at))
        power += s.power * (patternFactor(cosineTo(s.aim, s.place, at), s.q) / r) ** 2 * 10 ** (-loss * r / 10)
      }
      levels[row * columns + column] = power > 0 ? 10 * Math.log10(power) : -120
    }
  }
  const sorted = levels.slice().sort()
  return { columns, rows, step, levels, spread: sorted[Math.floor(0.95 * (sorted.length - 1))]! - sorted[Math.floor(0.05 * (sorted.length - 1))]! }
}
