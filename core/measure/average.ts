import type { Curve } from '../dsp'
import type { Decibels } from '../units'
import { refusal } from '../words'

/** One curve of many: `weight` (≥ 0) is its position's. */
export interface Weighted {
  curve: Curve
  weight: number
}

export interface AverageResult {
  curve: Curve
  /** Spread between the curves: mean level less and plus its standard deviation, in dB at each point. */
  low: Float64Array
  high: Float64Array
}

/**
 * Average of curves on one grid, weighted by position and, with `byTrust`, by coherence. 'power': mean of the
 * powers with the phase of
 * the complex mean; 'complex': mean of the complex values (arrivals must be aligned); 'level': mean of the
 * levels in dB. A point counts only where a
 * curve has sound. Throws RangeError for no curve, different grids, or weights that are all 0.
 */
export function average(
  list: readonly Weighted[],
  kind: 'power' | 'complex' | 'level',
  byTrust = false,
): AverageResult {
  if (!list.length) throw refusal('average.none')
  const { frequencies } = list[0]!.curve
  const n = frequencies.length
  if (list.some(({ curve }) => curve.frequencies.length !== n))
    throw refusal('average.grids')
  if (!list.some(l => l.weight > 0)) throw refusal('average.noWeight')
  const re = new Float64Array(n)
  const im = new Float64Array(n)
  const low = new Float64Array(n)
  const high = new Float64Array(n)
  const allCoherent = list.every(l => l.curve.coherence)
  const coherence = allCoherent ? new Float64Array(n) : null
  for (let k = 0; k < n; k++) {
    let total = 0
    let sr = 0
    let si = 0
    let power = 0
    let level = 0
    let square = 0
    let gamma = 0
    for (const { curve, weight } of list) {
      const r = curve.re[k]!
      const i = curve.im[k]!
      const p = r * r + i * i
      const g = curve.coherence?.[k] ?? 1
      const w = weight * (byTrust ? g : 1)
      if (p <= 1e-24 || w <= 0) continue
      const db = 10 * Math.log10(p)
      total += w
      sr += w * r
      si += w * i
      power += w * p
      level += w * db
      square += w * db * db
      gamma += w * g
    }
    if (total <= 0) {
      low[k] = high[k] = Number.NaN
      continue
    }
    const mean: Decibels = level / total
    const deviation = Math.sqrt(Math.max(0, square / total - mean * mean))
    const size = Math.hypot(sr, si)
    let aim = 10 ** (mean / 20)
    if (kind === 'complex') aim = size / total
    else if (kind === 'power') aim = Math.sqrt(power / total)
    re[k] = size > 0 ? (sr / size) * aim : aim
    im[k] = size > 0 ? (si / size) * aim : 0
    low[k] = mean - deviation
    high[k] = mean + deviation
    if (coherence) coherence[k] = gamma / total
  }
  return { curve: { frequencies, re, im, coherence }, low, high }
}
