import { blackmanHarris, exactSpectrum } from '../dsp'
import type { Decibels, Hertz, Seconds } from '../units'

/**
 * Level over frequency and time, dB under its own largest value; row by row in time, `frequencies.length`
 * values each.
 */
export interface DepthMap {
  frequencies: Float64Array
  times: Float64Array
  levels: Float32Array
}

/**
 * How a response decays: spectra of what is left from each moment on, through a window of `window` seconds
 * (half of it before the
 * moment), from the arrival `at` (sample) to `length` later. Frequencies that the window cannot resolve are
 * left at the floor.
 */
export function decayMap(
  response: ArrayLike<number>,
  sampleRate: Hertz,
  at: number,
  frequencies: Float64Array,
  length: Seconds,
  rows: number,
  window: Seconds,
  floor: Decibels = -60,
): DepthMap {
  const size = 2 ** Math.ceil(Math.log2(Math.max(64, window * sampleRate)))
  const spectrum = exactSpectrum(size)
  const shape = blackmanHarris(size)
  const times = Float64Array.from({ length: rows }, (_, r) => (r * length) / (rows - 1))
  const levels = new Float32Array(rows * frequencies.length).fill(-400)
  const block = new Float64Array(size)
  const bin = sampleRate / size
  let most = -400
  times.forEach((t, r) => {
    const from = Math.round(at + t * sampleRate) - size / 2
    for (let n = 0; n < size; n++) block[n] = response[from + n] ?? 0
    const s = spectrum.forward(block, shape)
    frequencies.forEach((f, k) => {
      const place = f / bin
      const low = Math.floor(place)
      const rest = place - low
      if (place < 1.5 || low + 1 > size / 2) return
      const power = (n: number) => s[2 * n]! ** 2 + s[2 * n + 1]! ** 2
      const level = 10 * Math.log10(Math.max(1e-40, (1 - rest) * power(low) + rest * power(low + 1)))
      levels[r * frequencies.length + k] = level
      if (level > most) most = level
    })
  })
  for (let n = 0; n < levels.length; n++) levels[n] = Math.max(floor, levels[n]! - most)
  return { frequencies, times, levels }
}

/**
 * Time after which each frequency has fallen by `by` dB under its loudest moment for good (the window makes it
 * later by up to half its length), from a decay map; null where it never does, or was never heard.
 */
export function fallTimes(map: DepthMap, by: Decibels): (Seconds | null)[] {
  const { frequencies, times, levels } = map
  const n = frequencies.length
  return Array.from(frequencies, (_, k) => {
    let start = -400
    for (let r = 0; r < times.length; r++) start = Math.max(start, levels[r * n + k]!)
    if (start - by < -59.5) return null
    for (let r = times.length - 1; r >= 0; r--)
      if (levels[r * n + k]! > start - by) return r === times.length - 1 ? null : times[r + 1]!
    return 0
  })
}

/** One arrival of sound in a response. */
export interface EchoArrival {
  time: Seconds
  /** Under the strongest. */ level: Decibels
  polarity: 1 | -1
}

/**
 * The strongest arrivals of a response, earliest first: peaks of its size at least `apart` from a stronger one
 * and within `range`
 * dB of the strongest. `start` is the time of its first sample.
 */
export function arrivalsOf(
  response: ArrayLike<number>,
  sampleRate: Hertz,
  start: Seconds,
  most = 8,
  range: Decibels = 24,
  apart: Seconds = 0.0006,
): EchoArrival[] {
  const size = (n: number) => Math.abs(response[n] ?? 0)
  const gap = Math.max(2, Math.round(apart * sampleRate))
  const peaks: number[] = []
  for (let n = 1; n < response.length - 1; n++) if (size(n) >= size(n - 1) && size(n) > size(n + 1)) peaks.push(n)
  peaks.sort((a, b) => size(b) - size(a))
  const top = peaks.length ? size(peaks[0]!) : 0
  const kept: number[] = []
  for (const n of peaks) {
    if (kept.length === most || size(n) < top * 10 ** (-range / 20) || top === 0) break
    if (kept.every(k => Math.abs(k - n) > gap)) kept.push(n)
  }
  return kept
    .sort((a, b) => a - b)
    .map(n => ({
      time: start + n / sampleRate,
      level: 20 * Math.log10(size(n) / top),
      polarity: response[n]! < 0 ? -1 : 1,
    }))
}
