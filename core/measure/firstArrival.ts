import { envelope, realFft } from '../dsp'
import type { Hertz, Seconds } from '../units'
import { arrivalOf, isBroadSource } from './arrival'

/** So far under the loudest a first arrival may lie: behind a loudspeaker the walls are louder than it is itself. */
const strong = 10 ** (-12 / 20)
/** So far over what comes before it (its mean) it must stand, and how long that is looked at. */
const over = 10 ** (10 / 20)
const before: Seconds = 0.002
/** A peak is the highest within this time. */
const within: Seconds = 0.0004
/** What is looked at: a room's tail holds no first arrival. */
const longest: Seconds = 1.5

/** The first peak of an envelope that is strong and stands out of what comes before it, between samples. */
function firstPeak(hull: Float32Array, sampleRate: Hertz): number | null {
  let most = 0
  for (const v of hull) most = Math.max(most, v)
  if (!(most > 0)) return null
  const [near, back] = [Math.round(within * sampleRate), Math.round(before * sampleRate)]
  let sum = 0
  for (let n = 0; n < hull.length; n++) {
    const v = hull[n]!
    const quiet = n ? sum / Math.min(n, back) : 0
    sum += v - (n >= back ? hull[n - back]! : 0)
    if (v < strong * most || v < over * quiet) continue
    let top = n
    for (let k = n; k <= Math.min(hull.length - 1, n + near); k++) if (hull[k]! > hull[top]!) top = k
    const [a, b, c] = [hull[top - 1] ?? 0, hull[top]!, hull[top + 1] ?? 0]
    const bend = a - 2 * b + c
    return bend < 0 ? top + (0.5 * (a - c)) / bend : top
  }
  return null
}

/**
 * When a source is first heard in an impulse response, in seconds after its first sample: of one that plays up to the
 * highs the first strong peak of its envelope, not the strongest reflection; of another (a sub) the onset of its own
 * pulse in its own band. Null where nothing can be told.
 */
export function firstArrival(impulse: Float32Array, sampleRate: Hertz): Seconds | null {
  const samples = impulse.subarray(0, Math.round(longest * sampleRate))
  const size = 2 ** Math.ceil(Math.log2(2 * samples.length))
  const [re, im] = [new Float64Array(size / 2 + 1), new Float64Array(size / 2 + 1)]
  const padded = new Float64Array(size)
  padded.set(samples)
  realFft(size).forward(padded, re, im)
  const broad = isBroadSource(re, im, sampleRate)
  if (broad === null) return null
  if (broad) {
    const peak = firstPeak(envelope(samples), sampleRate)
    return peak === null ? null : peak / sampleRate
  }
  return arrivalOf(re, im, sampleRate, 0, samples.length - 1)?.time ?? null
}
