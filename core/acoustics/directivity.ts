import type { Aim, Place } from './schemas'

/** Unit vector of an aim: turn 0, tilt 0 looks along +x. */
export function direction({ turn, tilt }: Aim): Place {
  const t = (turn * Math.PI) / 180
  const d = (tilt * Math.PI) / 180
  return { x: Math.cos(t) * Math.cos(d), y: Math.sin(t) * Math.cos(d), z: -Math.sin(d) }
}

/** Energy to the rear of a box over what an omnidirectional source of the same power would send there. */
const rear = 0.15

/**
 * Pressure factor (0…1) of a source of directivity factor `q` at `cosine` of the angle off its axis: a lobe
 * over a part that
 * goes everywhere, √((1-r)·((1 + cos θ)/2)^(p-1) + r) with r = 0.15/q, so that boxes sound to the rear as well.
 * Its mean energy
 * over the sphere is exactly 1/q (by integration), so level, power and pattern agree at every frequency.
 */
export function patternFactor(cosine: number, q: number): number {
  const all = rear / Math.max(1, q)
  const lobe = Math.max(1, (q - rear) / (1 - rear))
  return Math.sqrt((1 - all) * ((1 + Math.max(-1, Math.min(1, cosine))) / 2) ** (lobe - 1) + all)
}

/** Cosine of the angle between an aim and the line from `from` to `to`. */
export function cosineTo(aim: Aim, from: Place, to: Place): number {
  const a = direction(aim)
  const d = { x: to.x - from.x, y: to.y - from.y, z: to.z - from.z }
  const r = Math.hypot(d.x, d.y, d.z)
  return r === 0 ? 1 : (a.x * d.x + a.y * d.y + a.z * d.z) / r
}
