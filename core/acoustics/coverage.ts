import { airLoss } from './air'
import { cosineTo, patternFactor } from './directivity'
import { distance } from './room'
import type { Aim, Air, Place } from './schemas'
import type { Decibels, Hertz } from '../units'

/** A cabinet at one frequency: its level on axis at 1 m in dB, and its directivity factor. */
export interface Radiator {
  level: Decibels
  q: number
  place: Place
  aim: Aim
}

/** Direct level at many places. */
export interface Coverage {
  /** One a place, in dB. */ levels: Float32Array
  /** 90 % of the places lie within so many dB. */ spread: Decibels
}

/**
 * Direct level of all radiators at `places` (x, y, z of each in turn, in metres), at one frequency: 1/r,
 * directivity, the air's loss;
 * powers summed (different sources carry different distances, so their phases say nothing of a whole octave).
 * No radiator: -120 dB.
 */
export function coverage(places: Float32Array, radiators: readonly Radiator[], air: Air, f: Hertz): Coverage {
  const levels = new Float32Array(places.length / 3)
  const loss = airLoss(f, air)
  const at: Place = { x: 0, y: 0, z: 0 }
  const sources = radiators.map(r => ({
    ...r,
    power: 10 ** (r.level / 10),
  }))
  for (let n = 0; n < levels.length; n++) {
    at.x = places[3 * n]!
    at.y = places[3 * n + 1]!
    at.z = places[3 * n + 2]!
    let power = 0
    for (const s of sources) {
      const r = Math.max(0.3, distance(s.place, at))
      power += s.power * (patternFactor(cosineTo(s.aim, s.place, at), s.q) / r) ** 2 * 10 ** ((-loss * r) / 10)
    }
    levels[n] = power > 0 ? 10 * Math.log10(power) : -120
  }
  const sorted = levels.slice().sort()
  const at90 = (part: number) => sorted[Math.floor(part * (sorted.length - 1))] ?? 0
  return { levels, spread: at90(0.95) - at90(0.05) }
}
