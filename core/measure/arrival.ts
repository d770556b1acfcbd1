import { complexFft, realFft } from '../dsp'
import type { Hertz, Seconds } from '../units'
import { bandArrival, signNear } from './bandArrival'
import { sourceBandOf, type SourceBand } from './sourceBand'

export interface Arrival {
  /** To a fraction of a sample; negative where the microphone is ahead of the reference. */
  time: Seconds
  /** +1, -1 when it is turned, null where the source's band does not tell it. */
  polarity: 1 | -1 | null
  /** Standard deviation of `time`. */
  uncertainty: Seconds
  /** What the source plays, 10 dB under its strongest. */
  band: [low: Hertz, high: Hertz]
}

/** Peak of an envelope: its time, and how many times the RMS of the whole response it is. */
interface Peak {
  time: Seconds
  clearness: number
}

/**
 * Clearness from which a peak is believed: the largest of 2^17 values of mere noise lies near 12 dB, and
 * once in hundreds of tries at 15 dB.
 */
const clear = 10 ** (15 / 20)
/**
 * A source that plays to here, or over so many octaves, tells its time by the peak of its envelope; another by its
 * own pulse.
 */
const broad: Hertz = 3000
const wide = 4.2
const bandOf = (re: Float64Array, im: Float64Array, sampleRate: Hertz): SourceBand | null =>
  sourceBandOf(
    re.map((v, k) => v * v + im[k]! * im[k]!),
    sampleRate / 2 / (re.length - 1),
    Math.min(20_000, 0.45 * sampleRate),
  )
const isBroad = ({ low, high }: SourceBand, sampleRate: Hertz) =>
  high >= Math.min(broad, 0.3 * sampleRate) || Math.log2(high / low) > wide
/** Whether a response is of a source that plays up to the highs; null when nothing stands out of it. */
export function isBroadSource(re: Float64Array, im: Float64Array, sampleRate: Hertz): boolean | null {
  const band = bandOf(re, im, sampleRate)
  return band && isBroad(band, sampleRate)
}
/** Above this a peak of the envelope is sharp enough to be an arrival. */
const middle: Hertz = 1000
/** Part of smoothing that is left in the division where a narrow band needs it exact. */
const grain = 0.05
/** Least uncertainty of an envelope's peak in samples: it is refined on the exact response. */
const peakWithin = 0.02
/** How far ahead of the reference a microphone is looked for. */
const earliest: Seconds = 0.12

/**
 * Arrival in a response given on the bins of a real transform, between lags `from` and `to` in samples (negative lags
 * count back from the end): of a source that plays up to the highs the peak of the envelope, of another the onset of
 * its own pulse (`bandArrival`). `expected` is the plan's, in samples; a `sign` that is known need not be told anew.
 * Null when nothing can be told.
 */
export function arrivalOf(
  re: Float64Array,
  im: Float64Array,
  sampleRate: Hertz,
  from: number,
  to: number,
  { expected = null, sign }: { expected?: number | null, sign?: 1 | -1 | null } = {},
): Arrival | null {
  const band = bandOf(re, im, sampleRate)
  if (!band) return null
  if (isBroad(band, sampleRate)) return peakArrival(re, im, sampleRate, from, to, band, sign)
  const own = bandArrival(re, im, sampleRate, from, to, expected)
  return own ?? (band.high > middle ? peakArrival(re, im, sampleRate, from, to, band) : null)
}

/** How far under the loudest sixth of an octave a part of the band is still raised to it. */
const raised = 10 ** -2.5

/** A response with its level evened out: what a room adds to some bands would hide the arrival in the others. */
function levelled(re: Float64Array, im: Float64Array) {
  const power = smoothPower(re, im)
  const least = raised * power.reduce((a, b) => Math.max(a, b), 0)
  const even = (v: number, k: number) => v / Math.sqrt(Math.max(least, power[k]!) || 1)
  return { re: re.map(even), im: im.map(even) }
}

/** The arrival by the envelope's peak; null where that does not stand out. */
function peakArrival(
  re: Float64Array,
  im: Float64Array,
  sampleRate: Hertz,
  from: number,
  to: number,
  band: SourceBand,
  sign?: 1 | -1 | null,
): Arrival | null {
  const level = levelled(re, im)
  const peak = envelopePeak(level.re, level.im, sampleRate, from, to)
  if (!peak || peak.clearness < clear) return null
  return {
    time: peak.time,
    polarity: sign === undefined ? signNear(re, im, sampleRate, band, Math.round(peak.time * sampleRate)) : sign,
    // as of a pulse of that bandwidth in noise (Cramér and Rao)
    uncertainty: Math.hypot(peakWithin / sampleRate, Math.sqrt(12) / (2 * Math.PI * band.high * peak.clearness)),
    band: [band.low, band.high],
  }
}

/**
 * Arrival of the microphone after the reference in their deconvolution, from 0.12 s before it to half a block behind;
 * negative where the two are swapped. Both blocks have the same power-of-two length; throws RangeError otherwise.
 * Null when either block is silent, or nothing stands out; `swapped` asks for the other way round too.
 */
export function findArrival(
  reference: ArrayLike<number>,
  microphone: ArrayLike<number>,
  sampleRate: Hertz,
  expected: Seconds | null = null,
  swapped = true,
): Arrival | null {
  const found = arrivalBetween(reference, microphone, sampleRate, expected)
  if (found || !swapped) return found
  // a room taken for the reference has no arrival of its own: the other way round it has
  const other = arrivalBetween(microphone, reference, sampleRate, null)
  return other && other.time > 0 && other.time < earliest ? { ...other, time: -other.time } : null
}

function arrivalBetween(
  reference: ArrayLike<number>,
  microphone: ArrayLike<number>,
  sampleRate: Hertz,
  expected: Seconds | null,
): Arrival | null {
  const length = reference.length
  if (microphone.length !== length) throw new RangeError('Reference and microphone blocks differ in length')
  const size = 2 * length
  const bins = length + 1
  const fft = realFft(size)
  const xr = new Float64Array(bins)
  const xi = new Float64Array(bins)
  const yr = new Float64Array(bins)
  const yi = new Float64Array(bins)
  const padded = new Float64Array(size)
  for (let n = 0; n < length; n++) padded[n] = reference[n]!
  fft.forward(padded, xr, xi)
  for (let n = 0; n < length; n++) padded[n] = microphone[n]!
  fft.forward(padded, yr, yi)
  const power = smoothPower(xr, xi)
  if (!(power.some(p => p > 0) && yr.some(v => v !== 0))) return null
  const floor = (power.reduce((a, b) => a + b, 0) / bins) * 1e-6
  const re = new Float64Array(bins)
  const im = new Float64Array(bins)
  /** Divides by the reference's power, `part` of it smoothed: a pulse is then sharp, but stands in grain. */
  const divide = (part: number) => {
    for (let k = 1; k < bins - 1; k++) {
      const d = part * power[k]! + (1 - part) * (xr[k]! ** 2 + xi[k]! ** 2) + floor
      re[k] = (xr[k]! * yr[k]! + xi[k]! * yi[k]!) / d
      im[k] = (xr[k]! * yi[k]! - xi[k]! * yr[k]!) / d
    }
  }
  divide(1)
  const band = bandOf(re, im, sampleRate)
  if (!band) return null
  const from = -Math.min(Math.round(earliest * sampleRate), length / 2)
  if (!isBroad(band, sampleRate)) {
    // music leaves gaps that look like a band's ends: a peak that stands out of everything is the arrival all the same
    const peak = band.high > middle ? peakArrival(re, im, sampleRate, from, length / 2, band) : null
    if (peak) return peak
    divide(grain)
  }
  return arrivalOf(re, im, sampleRate, from, length / 2, { expected: expected === null ? null : expected * sampleRate })
}

/** Powers of an envelope: so far under the strongest a first sound may lie, and over what came just before it. */
const firstUnder = 10 ** -1.2
const firstOver = 10
/** How long before it is looked at, how far ahead of the strongest it must lie, and how far it is looked for. */
const justBefore: Seconds = 0.002
const aheadBy: Seconds = 0.0015
const aheadMost: Seconds = 0.12

/**
 * The first strong sound of an envelope's powers (circular) before its strongest: behind a loudspeaker the walls are
 * louder than it is itself. `least`: the power that stands out of the noise. The strongest where nothing comes before.
 */
function firstSound(
  power: (n: number) => number,
  best: number,
  from: number,
  least: number,
  sampleRate: Hertz,
): number {
  const wide = Math.round(justBefore * sampleRate)
  const most = power(best)
  const begin = Math.max(from, best - Math.round(aheadMost * sampleRate))
  const end = best - Math.round(aheadBy * sampleRate)
  let before = 0
  for (let n = begin - wide; n < begin; n++) before += power(n)
  for (let n = begin; n < end; n++) {
    const e = power(n)
    const isStrong = e > firstUnder * most && e > least && e * wide > firstOver * before
    if (isStrong && e >= power(n + 1) && e > power(n - 1)) return n
    before += e - power(n - wide)
  }
  return best
}

/** Peak of the Hilbert envelope of a response, refined between samples on the band-limited response. */
function envelopePeak(
  re: Float64Array,
  im: Float64Array,
  sampleRate: Hertz,
  from: number,
  to: number,
): Peak | null {
  const size = 2 * (re.length - 1)
  const ar = new Float64Array(size)
  const ai = new Float64Array(size)
  for (let k = 1; k < size / 2; k++) {
    ar[k] = 2 * re[k]!
    ai[k] = 2 * im[k]!
  }
  complexFft(size).inverse(ar, ai)
  let best = -1
  let peak = 0
  let energy = 0
  for (let n = 0; n < size; n++) {
    const e = ar[n]! ** 2 + ai[n]! ** 2
    energy += e
    const lag = n < size / 2 ? n : n - size
    if (e > peak && lag >= from && lag <= to) {
      peak = e
      best = n
    }
  }
  if (best < 0) return null
  const power = (n: number) => {
    const k = ((n % size) + size) % size
    return ar[k]! ** 2 + ai[k]! ** 2
  }
  const least = (clear ** 2 * energy) / size
  const start = firstSound(power, best < size / 2 ? best : best - size, from, least, sampleRate)
  return {
    time: refine(re, im, start) / sampleRate,
    clearness: Math.sqrt((power(start) * size) / energy),
  }
}

/** Golden-section search for the envelope's peak within a sample of `start`, on the exact band-limited response. */
function refine(re: Float64Array, im: Float64Array, start: number): number {
  const bins = re.length
  const size = 2 * (bins - 1)
  const envelope = (lag: number) => {
    const cs = Math.cos((2 * Math.PI * lag) / size)
    const sn = Math.sin((2 * Math.PI * lag) / size)
    let c = 1
    let s = 0
    let sumRe = 0
    let sumIm = 0
    for (let k = 1; k < bins - 1; k++) {
      const t = c * cs - s * sn
      s = s * cs + c * sn
      c = t
      sumRe += re[k]! * c - im[k]! * s
      sumIm += re[k]! * s + im[k]! * c
    }
    return sumRe * sumRe + sumIm * sumIm
  }
  const golden = (Math.sqrt(5) - 1) / 2
  let a = start - 1
  let b = start + 1
  let x1 = b - golden * (b - a)
  let x2 = a + golden * (b - a)
  let f1 = envelope(x1)
  let f2 = envelope(x2)
  while (b - a > 1e-3) {
    if (f1 > f2) {
      b = x2
      x2 = x1
      f2 = f1
      x1 = b - golden * (b - a)
      f1 = envelope(x1)
    }
    else {
      a = x1
      x1 = x2
      f1 = f2
      x2 = a + golden * (b - a)
      f2 = envelope(x2)
    }
  }
  return (a + b) / 2
}

/**
 * Power of a spectrum averaged over a sixth of an octave (at least 3 bins) around each bin: the shape without
 * the grain.
 */
function smoothPower(re: Float64Array, im: Float64Array): Float64Array {
  const bins = re.length
  const total = new Float64Array(bins + 1)
  for (let k = 0; k < bins; k++) total[k + 1] = total[k]! + re[k]! ** 2 + im[k]! ** 2
  return re.map((_, k) => {
    const half = Math.max(1, Math.round(k * 0.06))
    const a = Math.max(0, k - half)
    const b = Math.min(bins - 1, k + half)
    return (total[b + 1]! - total[a]!) / (b - a + 1)
  })
}
