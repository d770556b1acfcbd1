import { windows, type WindowId } from '../dsp'
import type { Hertz, Seconds } from '../units'

/** A response cut out of a running average; sample 0 lies at `start` seconds from the compensated delay. */
export interface AverageResponse {
  samples: Float32Array
  start: Seconds
  /** Samples of the blocks that it was averaged from. */ block: number
}

const steps = 256
const tables = new Map<string, Float64Array>()
/** A window's autocorrelation over its energy at 257 lags from 0 to its length; kept, they are few. */
function tableOf(window: WindowId, points: number): Float64Array {
  const key = `${window} ${points}`
  const known = tables.get(key)
  if (known) return known
  const shape = windows[window].make(points)
  const energy = shape.reduce((sum, w) => sum + w * w, 0)
  const table = Float64Array.from({ length: steps + 1 }, (_, s) => {
    const lag = Math.round((s * points) / steps)
    let sum = 0
    for (let n = 0; n + lag < points; n++) sum += shape[n]! * shape[n + lag]!
    return sum / energy
  })
  tables.set(key, table)
  return table
}

/**
 * How much of a response's lag survives when both blocks are seen through one window: the window's autocorrelation
 * over its energy, at lags 0 … `count` - 1. Found by the window's cosines: a sum over a few thousand points.
 */
export function taperOf(window: WindowId, length: number, count: number): Float64Array {
  // the windows are smooth: a short one of the same shape says it at every lag
  const table = tableOf(window, Math.min(length, 4096))
  const out = new Float64Array(count)
  for (let n = 0; n < count; n++) {
    const place = (n / length) * steps
    const k = Math.min(steps - 1, Math.floor(place))
    out[n] = table[k]! + (place - k) * (table[k + 1]! - table[k]!)
  }
  return out
}

/** Parts of a block: what is shown before the arrival, and how far behind it the window lets enough through. */
const early = 1 / 8
const late = 1 / 2

/**
 * The response behind a running average, in order, without the window's taper (which would make every room decay too
 * fast): an eighth of the block before the arrival, half of it behind. What lies later is not in such an average.
 */
export function withoutTaper(circular: Float64Array, window: WindowId, sampleRate: Hertz): AverageResponse {
  const { length } = circular
  const before = Math.round(early * length)
  const count = Math.round(late * length)
  const taper = taperOf(window, length, Math.max(before, count) + 1)
  const samples = new Float32Array(before + count)
  for (let n = 0; n < samples.length; n++) {
    const lag = n - before
    samples[n] = circular[(lag + length) % length]! / taper[Math.abs(lag)]!
  }
  return { samples, start: -before / sampleRate, block: length }
}
