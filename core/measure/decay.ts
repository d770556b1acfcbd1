import { filterThrough } from '../dsp'
import type { Decibels, Hertz, Seconds } from '../units'
import type { FrequencyBand } from './bands'
import { fractionalOctaves } from './bands'
import { bandFilter } from './level'

/** A straight line through part of a decay: the time for 60 dB, and how straight it is (correlation, 1 = a line). */
export interface DecayFit {
  time: Seconds
  straightness: number
}

/**
 * Decay and clarity of one band (ISO 3382-1). A value is null where the response does not reach so far above
 * its noise.
 */
export interface BandDecay {
  band: string
  middle: Hertz
  early: DecayFit | null
  t20: DecayFit | null
  t30: DecayFit | null
  /** Clarity in dB and definition 0…1. */
  c50: Decibels
  c80: Decibels
  d50: number
  /** Peak of the decay over the noise behind it. */
  range: Decibels
}

/** First sample that comes within 20 dB of the largest: where the direct sound begins (ISO 3382-1, 5.3.3). */
export function onset(response: ArrayLike<number>): number {
  let most = 0
  for (let n = 0; n < response.length; n++) most = Math.max(most, Math.abs(response[n]!))
  for (let n = 0; n < response.length; n++) if (Math.abs(response[n]!) > most / 10) return n
  return 0
}

/**
 * Where a decay sinks into its noise, the noise's mean square, and how far above it the start stands.
 * Simplified from Lundeby et al. 1995, Acustica 81, 344.
 */
function knee(squares: Float64Array, sampleRate: Hertz): { end: number, noise: number, range: Decibels } {
  const step = Math.max(8, Math.round(sampleRate * 0.01))
  const count = Math.floor(squares.length / step)
  const means = Float64Array.from({ length: count }, (_, k) => {
    let s = 0
    for (let n = k * step; n < (k + 1) * step; n++) s += squares[n]!
    return s / step
  })
  const tail = Math.max(1, Math.floor(count / 10))
  let noise = 0
  for (let k = count - tail; k < count; k++) noise += means[k]! / tail
  const top = means.indexOf(means.reduce((a, b) => Math.max(a, b), 0))
  let end = count
  for (let k = top; k < count; k++)
    if (means[k]! < noise * 2.5) {
      end = k
      break
    } // 4 dB over the noise
  return {
    end: Math.max(end, 2) * step,
    noise,
    range: 10 * Math.log10(Math.max(1e-30, means[top]!) / Math.max(1e-30, noise)),
  }
}

function fit(levels: Float64Array, sampleRate: Hertz, from: Decibels, to: Decibels): DecayFit | null {
  let a = levels.findIndex(v => v <= from)
  const b = levels.findIndex(v => v <= to)
  if (a < 0 || b < 0 || b - a < 8) return null
  a = Math.max(0, a)
  let sx = 0
  let sy = 0
  let sxx = 0
  let sxy = 0
  let syy = 0
  for (let n = a; n <= b; n++) {
    const x = n / sampleRate
    const y = levels[n]!
    sx += x
    sy += y
    sxx += x * x
    sxy += x * y
    syy += y * y
  }
  const count = b - a + 1
  const vx = sxx - (sx * sx) / count
  const vxy = sxy - (sx * sy) / count
  const vy = syy - (sy * sy) / count
  return { time: (-60 * vx) / vxy, straightness: Math.abs(vxy) / Math.sqrt(vx * vy) }
}

/**
 * Decay times of one (already filtered, or broadband) response from `start` on: backward integration (Schroeder
 * 1965) of the
 * squares less their noise, up to where the decay sinks into it; straight lines from 0 to -10, -5 to -25, -5 to -35 dB.
 */
export function decayOf(
  response: ArrayLike<number>,
  sampleRate: Hertz,
  start = 0,
): Omit<BandDecay, 'band' | 'middle'> {
  const squares = Float64Array.from({ length: response.length - start }, (_, n) => response[start + n]! ** 2)
  const { end, noise, range } = knee(squares, sampleRate)
  const length = Math.min(end, squares.length)
  const energy = new Float64Array(length + 1)
  for (let n = length - 1; n >= 0; n--) energy[n] = Math.max(0, energy[n + 1]! + squares[n]! - noise)
  // what was cut off behind the knee, if it went on as it did over the 10 dB before: keeps the end of the line straight
  const back = energy.findIndex(e => e <= energy[0]! * 10 ** (-Math.min(25, range - 5) / 10))
  const fall = back > 0 ? energy[0]! / Math.max(1e-300, energy[back]!) : 0
  if (fall > 1.2 && back < length) {
    const rate = Math.log(fall) / back
    const rest = Math.max(0, energy[0]! * Math.exp(-rate * length))
    for (let n = 0; n <= length; n++) energy[n]! += rest
  }
  const levels = energy.map(e => 10 * Math.log10(Math.max(1e-30, e / energy[0]!)))
  const part = (seconds: Seconds) => {
    const n = Math.min(length, Math.round(seconds * sampleRate))
    return { before: energy[0]! - energy[n]!, after: energy[n]! }
  }
  const clarity = (seconds: Seconds) => {
    const { before, after } = part(seconds)
    return 10 * Math.log10(Math.max(1e-12, before) / Math.max(1e-12 * energy[0]!, after))
  }
  const reaches = (needed: Decibels) => range >= needed
  return {
    early: reaches(20) ? fit(levels, sampleRate, -0.05, -10) : null,
    t20: reaches(35) ? fit(levels, sampleRate, -5, -25) : null,
    t30: reaches(45) ? fit(levels, sampleRate, -5, -35) : null,
    c50: clarity(0.05),
    c80: clarity(0.08),
    d50: energy[0]! > 0 ? part(0.05).before / energy[0]! : 0,
    range,
  }
}

/** Decay of a whole impulse response in each band of 1/`part` octave from 63 Hz to 8 kHz, by class 1 filters. */
export function decayTimes(response: ArrayLike<number>, sampleRate: Hertz, part: 1 | 3 = 1): BandDecay[] {
  const start = onset(response)
  const last = Math.min(8000, (sampleRate / 2 / Math.SQRT2) * 0.98)
  return fractionalOctaves(part, part === 1 ? 63 : 50, last).map((band: FrequencyBand) => {
    const filtered = filterThrough(bandFilter(band, sampleRate), response)
    return { band: band.name, middle: band.middle, ...decayOf(filtered, sampleRate, start) }
  })
}
