import type { Curve } from '../dsp'
import { fractionalOctaves } from '../measure'
import type { Decibels, Hertz } from '../units'
import { refusal } from '../words'

/** Where an audience's places are compared (common practice: below it the room decides, above it the air). */
export const spreadRange: readonly [Hertz, Hertz] = [100, 10_000]
const part = 3

/** Mean power of a curve in each band, in dB; NaN where no point of its grid lies. */
export function levelsIn({ frequencies, re, im }: Curve, bands: readonly { low: Hertz, high: Hertz }[]): Decibels[] {
  return bands.map(({ low, high }) => {
    let [sum, count] = [0, 0]
    for (let k = 0; k < frequencies.length; k++) {
      if (frequencies[k]! < low || frequencies[k]! >= high) continue
      sum += re[k]! ** 2 + im[k]! ** 2
      count++
    }
    return count ? 10 * Math.log10(Math.max(1e-30, sum / count)) : Number.NaN
  })
}

export interface Spread {
  /** Middles of thirds of an octave. */
  bands: Hertz[]
  /** Standard deviation of the level over the positions, by their weights, in each band, in dB. */
  each: Decibels[]
  /** Root mean square of those. */
  all: Decibels
  /** Levels by position and band. */
  levels: Decibels[][]
}

/** How much positions differ in thirds of an octave. Throws RangeError where no position counts. */
export function spreadOf(curves: readonly Curve[], weights: readonly number[], range = spreadRange): Spread {
  const bands = fractionalOctaves(part, ...range)
  const levels = curves.map(c => levelsIn(c, bands))
  const all = weights.reduce((s, w) => s + w, 0)
  if (!(all > 0)) throw refusal('align.noPositionCounts')
  const each = bands.map((_, b) => {
    const mean = levels.reduce((s, l, n) => s + (weights[n]! / all) * l[b]!, 0)
    return Math.sqrt(levels.reduce((s, l, n) => s + (weights[n]! / all) * (l[b]! - mean) ** 2, 0))
  })
  const rms = Math.sqrt(each.reduce((s, v) => s + v * v, 0) / each.length)
  return { bands: bands.map(b => b.middle), each, all: rms, levels }
}
