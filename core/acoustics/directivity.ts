import { atFrequency, type PerOctave } from './materials'
import type { Decibels, Degrees } from '../units'
import type { Place } from './room'

/** Where a loudspeaker looks: `turn` from the room's length towards house right, `tilt` down from level. */
export interface Aim {
  turn: Degrees
  tilt: Degrees
}

/** Unit vector of an aim: turn 0, tilt 0 looks along +x. */
export function direction({ turn, tilt }: Aim): Place {
  const t = (turn * Math.PI) / 180
  const d = (tilt * Math.PI) / 180
  return { x: Math.cos(t) * Math.cos(d), y: Math.sin(t) * Math.cos(d), z: -Math.sin(d) }
}

/**
 * Pressure factor (0…1) of a source of directivity factor `q` at `cosine` of the angle off its axis: ((1 + cos
 * θ)/2)^((q-1)/2).
 * Its mean energy over the sphere is exactly 1/q, so level, power and pattern agree at every frequency (by
 * integration).
 */
export const patternFactor = (cosine: number, q: number): number =>
  ((1 + Math.max(-1, Math.min(1, cosine))) / 2) ** (Math.max(0, q - 1) / 2)

/** Cosine of the angle between an aim and the line from `from` to `to`. */
export function cosineTo(aim: Aim, from: Place, to: Place): number {
  const a = direction(aim)
  const d = { x: to.x - from.x, y: to.y - from.y, z: to.z - from.z }
  const r = Math.hypot(d.x, d.y, d.z)
  return r === 0 ? 1 : (a.x * d.x + a.y * d.y + a.z * d.z) / r
}

/** Level off axis in dB at a frequency, from a directivity factor per octave. */
export const offAxis = (cosine: number, q: PerOctave, f: number): Decibels =>
  20 * Math.log10(Math.max(1e-5, patternFactor(cosine, atFrequency(q, f))))
