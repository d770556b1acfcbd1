import { logGrid } from '../dsp'
import type { Decibels, Hertz } from '../units'

/** Where a source plays, from the smoothed power of a response. */
export interface SourceBand {
  /** Edges, 10 dB under the strongest octave, and under a tilt above it. */
  low: Hertz
  high: Hertz
  /** Level on `sourceGrid`, smoothed, dB re the strongest; its slopes go on where noise takes over. */
  levels: Float64Array
  /** Level of what is no longer the source. */
  floor: Decibels
}

/** Twenty-four points an octave. */
const sourceGrid = logGrid(24, 12, 22_000)
const edge: Decibels = -10
/** What a bare room may add to the lows over the highs, an octave: no edge of the source. */
const tilt: Decibels = 3
/** A third of an octave: 2^(1/6) to each side. */
const half = 2 ** (1 / 6)
/** How far over the floor a slope is still the source's, and how far it goes on below. */
const overFloor: Decibels = 8
const lowest: Decibels = -600

/** Mean level in dB around each point of the grid: on a steep slope that of its middle, not of its loud end. */
function smoothed(power: ArrayLike<number>, bin: Hertz): Float64Array {
  const sums = new Float64Array(power.length + 1)
  let most = 0
  for (let k = 1; k < power.length; k++) most = Math.max(most, power[k]!)
  for (let k = 0; k < power.length; k++)
    sums[k + 1] = sums[k]! + 10 * Math.log10(Math.max(1e-30, 1e-13 * most, power[k]!))
  return sourceGrid.map((f) => {
    const a = Math.min(power.length - 1, Math.max(1, Math.round(f / half / bin)))
    const b = Math.min(power.length, Math.max(a + 1, Math.round((f * half) / bin) + 1))
    return (sums[b]! - sums[a]!) / (b - a)
  })
}

/** Mean level over an octave around each point, in dB. */
const overOctaves = (levels: Float64Array) =>
  levels.map((_, k) => {
    const from = Math.max(0, k - 12)
    const to = Math.min(levels.length, k + 13)
    return levels.subarray(from, to).reduce((sum, v) => sum + v, 0) / (to - from)
  })

/** Goes down a slope from `from` by `step` until the floor, then on along it; changes `levels`. */
function continueSlope(levels: Float64Array, from: number, step: 1 | -1, floor: Decibels) {
  let k = from
  while (k + step >= 0 && k + step < levels.length && levels[k]! > floor + overFloor) k += step
  if (k + step < 0 || k + step >= levels.length) return
  const back = Math.max(0, Math.min(levels.length - 1, k - 8 * step))
  const slope = Math.min(-0.05, (levels[k]! - levels[back]!) / 8)
  for (let n = 1; k + n * step >= 0 && k + n * step < levels.length; n++)
    levels[k + n * step] = Math.max(lowest, levels[k]! + n * slope)
}

/** The band that a source plays, of its power a bin; null when nothing stands out of the rest. */
export function sourceBandOf(power: ArrayLike<number>, bin: Hertz, highest: Hertz): SourceBand | null {
  const levels = smoothed(power, bin)
  const usable = (k: number) => sourceGrid[k]! >= 20 && sourceGrid[k]! <= highest
  // by octaves: a mode that stands high over everything is no band
  const wide = overOctaves(levels)
  let top = -1
  for (let k = 0; k < levels.length; k++) if (usable(k) && (top < 0 || wide[k]! > wide[top]!)) top = k
  if (top < 0 || wide[top]! < -280) return null
  const most = wide[top]!
  for (let k = 0; k < levels.length; k++) levels[k]! -= most
  let low = top
  let high = top
  // a dip of a comb is no edge: what comes back within an octave belongs to the source
  for (let k = top; k >= 0 && usable(k) && low - k <= 24; k--) if (levels[k]! >= edge) low = k
  for (let k = top; k < levels.length && usable(k) && k - high <= 24; k++)
    if (levels[k]! + (tilt * (k - top)) / 24 >= edge) high = k
  // the edge itself is 10 dB under what lies an octave below it
  const below = Math.max(...levels.subarray(Math.max(top, high - 48), Math.max(top, high - 24) + 1))
  while (high > top && levels[high]! < below + edge) high--
  const outside = levels.filter((_, k) => usable(k) && (k < low - 36 || k > high + 36)).toSorted()
  const floor = Math.max(-90, outside.length ? outside[Math.floor(outside.length / 4)]! : -90)
  continueSlope(levels, high, 1, floor)
  continueSlope(levels, low, -1, Math.max(floor, -60))
  return { low: sourceGrid[low]!, high: sourceGrid[high]!, levels, floor }
}

/** A level of the grid at any frequency, straight between its points. */
export function levelAt(levels: Float64Array, f: Hertz): Decibels {
  const place = 24 * Math.log2(Math.max(f, 1e-3) / sourceGrid[0]!)
  if (place <= 0) return Math.max(lowest, levels[0]! + place * Math.max(0.05, levels[1]! - levels[0]!))
  const k = Math.min(levels.length - 2, Math.floor(place))
  return levels[k]! + Math.min(1, place - k) * (levels[k + 1]! - levels[k]!)
}
