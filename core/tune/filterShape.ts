import type { Hertz } from '../units'

// Level in dB of one second-order filter, and how it changes with its numbers: in closed form, since the Cookbook's
// bilinear transform prewarped at the middle only bends the frequency axis, Ω = tan(w/2)/tan(w0/2).

/** Kinds of filter that a fit may set. */
export const fitKinds = ['peaking', 'low-shelf', 'high-shelf'] as const
export type FitKind = (typeof fitKinds)[number]

const decibels = 10 / Math.LN10
const perDecibel = Math.LN10 / 20

/** Tangents of half of each frequency's angle at the sample rate, made once for a grid. */
export const tangentsOf = (frequencies: ArrayLike<number>, sampleRate: Hertz): Float64Array =>
  Float64Array.from(frequencies, f => Math.tan((Math.PI * f) / sampleRate))

/**
 * Level in dB of a filter at each of `tangents` into `level`, and its derivatives by ln(frequency), gain in dB and
 * ln(Q) into `slopes` (three rows of the grid's length), where they are wanted. Writes into what is given and
 * allocates nothing.
 */
export function filterLevel(
  kind: FitKind,
  logFrequency: number,
  gain: number,
  logQ: number,
  tangents: Float64Array,
  sampleRate: Hertz,
  level: Float64Array,
  slopes: readonly [Float64Array, Float64Array, Float64Array] | null,
): void {
  const w = (2 * Math.PI * Math.exp(logFrequency)) / sampleRate
  const middle = Math.tan(w / 2)
  /** d ln tan(w/2) by ln w: how the bent axis moves with the frequency. */
  const bend = w / Math.sin(w)
  const q2 = Math.exp(2 * logQ)
  if (kind === 'peaking') {
    const peak = Math.exp(gain * perDecibel)
    const a = peak / q2
    const b = 1 / (peak * q2)
    for (let k = 0; k < level.length; k++) {
      const o = tangents[k]! / middle
      const v = 1 / o - o
      const n = v * v + a
      const d = v * v + b
      level[k] = decibels * Math.log(n / d)
      if (!slopes) continue
      slopes[0][k] = decibels * (1 / n - 1 / d) * 2 * v * bend * (1 / o + o)
      slopes[1][k] = 0.5 * (a / n + b / d)
      slopes[2][k] = decibels * 2 * (b / d - a / n)
    }
    return
  }
  // |H|² = A²·((A - p)² + A·p/Q²)/((1 - A·p)² + A·p/Q²) with p = Ω² of a low shelf, 1/Ω² of a high one
  const a = Math.exp((gain * perDecibel) / 2)
  const side = kind === 'low-shelf' ? 1 : -1
  for (let k = 0; k < level.length; k++) {
    const o = tangents[k]! / middle
    const p = side === 1 ? o * o : 1 / (o * o)
    const r = (a * p) / q2
    const n = (a - p) ** 2 + r
    const d = (1 - a * p) ** 2 + r
    level[k] = gain / 2 + decibels * Math.log(n / d)
    if (!slopes) continue
    const byP = (-2 * (a - p) + a / q2) / n - (-2 * a * (1 - a * p) + a / q2) / d
    const byA = (2 * (a - p) + p / q2) / n - (-2 * p * (1 - a * p) + p / q2) / d
    slopes[0][k] = decibels * byP * -2 * side * bend * p
    slopes[1][k] = 0.5 + decibels * byA * a * (perDecibel / 2)
    slopes[2][k] = decibels * -2 * r * (1 / n - 1 / d)
  }
}
