import { complexFft, realFft } from '../dsp'
import type { Hertz, Seconds } from '../units'

export interface Arrival {
  /** Time of the envelope's peak, to a fraction of a sample. */
  time: Seconds
  /** +1, or -1 when the response's largest swing is downwards. */
  polarity: 1 | -1
  /** Peak over the RMS of the whole response, in dB; see `clearArrival`. */
  clearness: number
}

/**
 * Clearness from which an arrival is believed: the largest of 2^17 values of mere noise lies near 12 dB, and
 * once in hundreds of tries at 15 dB.
 */
export const clearArrival = 15

/**
 * Arrival of the microphone after the reference: the peak of the Hilbert envelope of their deconvolution,
 * refined between
 * samples on the band-limited response. Searches from -`early` to +`reference.length / 2` samples' time.
 * Both blocks have the same power-of-two length; throws RangeError otherwise. Returns null when either block is silent.
 */
export function findArrival(
  reference: ArrayLike<number>,
  microphone: ArrayLike<number>,
  sampleRate: Hertz,
  early: Seconds = 0.02,
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
  for (let k = 1; k < bins - 1; k++) {
    const d = power[k]! + floor
    re[k] = (xr[k]! * yr[k]! + xi[k]! * yi[k]!) / d
    im[k] = (xr[k]! * yi[k]! - xi[k]! * yr[k]!) / d
  }
  return envelopePeak(re, im, sampleRate, -Math.round(early * sampleRate), length / 2)
}

/**
 * Arrival in a response given on the bins of a real transform (re, im of length N/2 + 1), between lags `from` and `to`
 * in samples (negative lags count back from the end).
 */
export function envelopePeak(
  re: Float64Array,
  im: Float64Array,
  sampleRate: Hertz,
  from: number,
  to: number,
): Arrival | null {
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
  const start = best < size / 2 ? best : best - size
  const lag = refine(re, im, start)
  let swing = 0
  for (let n = -3; n <= 3; n++) {
    const v = ar[(best + n + size) % size]!
    if (Math.abs(v) > Math.abs(swing)) swing = v
  }
  return {
    time: lag / sampleRate,
    polarity: swing < 0 ? -1 : 1,
    clearness: 10 * Math.log10((peak * size) / energy),
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
