import { filterInPlace, filterThrough, type Section } from '../dsp'
import { showNumber, type Decibels, type Hertz, type Seconds } from '../units'
import { fractionalOctaves, type FrequencyBand } from './bands'
import { extentOf, type Extent } from './extent'
import { bandFilter } from './level'
import { message, type Message } from '../words'

/** A straight line through part of a decay: the time for 60 dB, and how straight it is (correlation, 1 = a line). */
export interface DecayFit {
  time: Seconds
  straightness: number
}

/** Early over late energy and where its middle lies (ISO 3382-1 annex A); D50 from 0 to 1. */
export interface Clarity {
  c50: Decibels
  c80: Decibels
  d50: number
  /** Centre time. */
  ts: Seconds
}

/** Decay of one response (ISO 3382-1). A value is null where the response does not reach so far above its noise. */
export interface Decay {
  early: DecayFit | null
  t20: DecayFit | null
  t30: DecayFit | null
  /** Start of the decay over the noise behind it, or over its own end where it is cut before that. */
  range: Decibels
  /** The response ends before the decay has sunk into noise. */
  cut: boolean
  /** T30 over T20 less one, in per cent: over 10 the decay is bent (ISO 3382-2 annex B). */
  curvature: number | null
}

/** Decay and clarity of one band, and in sentences what speaks against them. */
export interface BandDecay extends Decay, OrNull<Clarity> {
  band: string
  middle: Hertz
  doubts: Message[]
}

type OrNull<T> = { [K in keyof T]: T[K] | null }
const noClarity: OrNull<Clarity> = { c50: null, c80: null, d50: null, ts: null }

/** How far a response must reach for each figure: 10 dB under its lowest value (ISO 3382-1), 3 dB for the estimate. */
const needed = { early: 18, t20: 32, t30: 42 } as const
/** Part of the energy that may be missing behind the end. */
const mostMissing = 0.1
/** Bandwidth times decay under which a filter's own decay takes part (ISO 3382-1, 5.3). */
const leastBandTime = 16

/**
 * A decay this many times as long as its response reads 5 % short and more: of what does not fit a running average's
 * block, a part counts as noise from the beginning (measured on seeded exponential decays).
 */
const mostOfLength = 1.3

/** First sample that comes within 20 dB of the largest: where the direct sound begins (ISO 3382-1, 5.3.3). */
export function onset(response: ArrayLike<number>): number {
  let most = 0
  for (let n = 0; n < response.length; n++) most = Math.max(most, Math.abs(response[n]!))
  for (let n = 0; n < response.length; n++) if (Math.abs(response[n]!) > most / 10) return n
  return 0
}

function fit(levels: Float64Array, sampleRate: Hertz, from: Decibels, to: Decibels): DecayFit | null {
  const a = levels.findIndex(v => v <= from)
  const b = levels.findIndex(v => v <= to)
  if (a < 0 || b < 0 || b - a < 8) return null
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

/** Energy that is still to come from each sample on (Schroeder 1965), less the noise's, with what was cut off. */
function remaining(squares: Float64Array, { end, noise, missing }: Extent): Float64Array {
  const energy = new Float64Array(end + 1)
  energy[end] = missing
  for (let n = end - 1; n >= 0; n--) energy[n] = Math.max(missing, energy[n + 1]! + squares[n]! - noise)
  return energy
}

function decayWithin(squares: Float64Array, extent: Extent, sampleRate: Hertz): Decay {
  const energy = remaining(squares, extent)
  const levels = new Float64Array(energy.length)
  for (let n = 0; n < energy.length; n++) levels[n] = 10 * Math.log10(Math.max(1e-30, energy[n]! / energy[0]!))
  const part = (least: Decibels, from: Decibels, to: Decibels) =>
    extent.range >= least ? fit(levels, sampleRate, from, to) : null
  const t20 = part(needed.t20, -5, -25)
  const t30 = part(needed.t30, -5, -35)
  return {
    early: part(needed.early, 0, -10),
    t20,
    t30,
    range: extent.range,
    cut: extent.cut,
    curvature: t20 && t30 ? 100 * (t30.time / t20.time - 1) : null,
  }
}

function squaresOf(x: ArrayLike<number>, start = 0): Float64Array {
  const out = new Float64Array(Math.max(0, x.length - start))
  for (let n = 0; n < out.length; n++) out[n] = x[start + n]! * x[start + n]!
  return out
}

/**
 * Decay times of one (already filtered, or broadband) response from `start` on: backward integration of the squares
 * less their noise, up to where the decay sinks into it, with what is cut off there; straight lines from 0 to -10,
 * -5 to -25, -5 to -35 dB. `width` is the width of its band in Hz.
 */
export function decayOf(response: ArrayLike<number>, sampleRate: Hertz, start = 0, width = sampleRate / 2): Decay {
  const squares = squaresOf(response, start)
  return decayWithin(squares, extentOf(squares, sampleRate, width), sampleRate)
}

/** Energy of a part of a response behind a band's filter, with all of the filter's ringing. */
function energyBehind(part: Float64Array, sections: readonly Section[], ringing: number): number {
  const padded = new Float64Array(part.length + ringing)
  padded.set(part)
  filterInPlace(padded, sections)
  return padded.reduce((sum, v) => sum + v * v, 0)
}

/** Middle of the energy in samples from the first, by the filter forwards and backwards: its own delay falls out. */
function centreOf(part: Float64Array, sections: readonly Section[], ringing: number, noise: number): number {
  const middle = (x: Float64Array) => {
    const padded = new Float64Array(x.length + ringing)
    padded.set(x)
    filterInPlace(padded, sections)
    let sum = -noise * x.length
    let moment = (-noise * x.length * x.length) / 2
    for (let n = 0; n < padded.length; n++) {
      const e = padded[n]! * padded[n]!
      sum += e
      moment += e * n
    }
    return { sum, at: moment / sum }
  }
  return (middle(part).at + (part.length - 1 - middle(part.toReversed()).at)) / 2
}

/**
 * Clarity of one band. Early is cut from late before the filter: behind it they would run into one another
 * (ISO 3382-1 annex A). Null where too much of the late energy is not there.
 */
function clarityOf(
  response: Float64Array,
  sections: readonly Section[],
  { end, noise, missing, constant, range }: Extent,
  sampleRate: Hertz,
  width: Hertz,
): Clarity | null {
  if (range < needed.early) return null
  const ringing = Math.round((4 / width) * sampleRate)
  const part = (from: number, to: number) =>
    Math.max(0, energyBehind(response.subarray(from, to), sections, ringing) - noise * (to - from))
  const parts = (seconds: Seconds) => {
    const at = Math.min(end, Math.round(seconds * sampleRate))
    return { early: part(0, at), late: part(at, end) + missing }
  }
  const [at50, at80] = [parts(0.05), parts(0.08)]
  const whole = at50.early + at50.late
  if (!(whole > 0) || missing > mostMissing * whole) return null
  const over = ({ early, late }: typeof at50) =>
    10 * Math.log10(Math.max(1e-9 * whole, early) / Math.max(1e-9 * whole, late))
  const centre = centreOf(response.subarray(0, end), sections, ringing, noise)
  // what is missing lies behind the end, in the middle of its own decay
  const rest = missing > 0 ? missing / whole : 0
  return {
    c50: over(at50),
    c80: over(at80),
    d50: at50.early / whole,
    ts: ((1 - rest) * centre + rest * (end + constant)) / sampleRate,
  }
}

function doubtsOf(decay: Decay, width: Hertz, lasts: Seconds): Message[] {
  const doubts: Message[] = []
  const longest = decay.t30 ?? decay.t20 ?? decay.early
  if (longest && longest.time > mostOfLength * lasts)
    doubts.push(
      message('measuring.theResponseIsOnly', { lasts: showNumber(lasts, 2), time: showNumber(longest.time, 1) }),
    )
  if (longest && width * longest.time < leastBandTime)
    doubts.push(
      message('measuring.bandwidthTimesDecayIs', { width: showNumber(width * longest.time, 0), leastBandTime }),
    )
  if (decay.curvature !== null && Math.abs(decay.curvature) > 10)
    doubts.push(message('measuring.theDecayIsBent', { curvature: showNumber(decay.curvature, 0) }))
  if (decay.cut && decay.range < needed.t30)
    doubts.push(
      decay.range < needed.early
        ? message('measuring.theResponseEndsBefore')
        : message('measuring.theResponseEndsBeforeIts'),
    )
  return doubts
}

/**
 * Decay and clarity of a whole impulse response in each band of 1/`part` octave from 63 Hz to 8 kHz. Times come
 * from class 1 filters run backwards, whose own decay falls before the sound (Jacobsen & Rindel 1987).
 */
export function decayTimes(response: ArrayLike<number>, sampleRate: Hertz, part: 1 | 3 = 1): BandDecay[] {
  const start = onset(response)
  const last = Math.min(8000, (sampleRate / 2 / Math.SQRT2) * 0.98)
  const from = new Float64Array(response).subarray(start)
  const backwards = from.toReversed()
  return fractionalOctaves(part, part === 1 ? 63 : 50, last).map((band: FrequencyBand) => {
    const sections = bandFilter(band, sampleRate)
    const width = band.high - band.low
    const squares = squaresOf(filterThrough(sections, backwards).reverse())
    const extent = extentOf(squares, sampleRate, width)
    const decay = decayWithin(squares, extent, sampleRate)
    return {
      band: band.name,
      middle: band.middle,
      ...decay,
      ...(clarityOf(from, sections, extent, sampleRate, width) ?? noClarity),
      doubts: doubtsOf(decay, width, from.length / sampleRate),
    }
  })
}

/**
 * Why a response has no decay figures at all, and what to do; null when at least one band has one.
 */
export function whyNoDecay(bands: readonly BandDecay[]): Message | null {
  if (bands.some(b => b.early)) return null
  return bands.some(b => b.cut)
    ? message('measuring.thisResponseEndsBefore')
    : message('measuring.nothingDecaysHereThe')
}
