import type { Curve } from './curve'
import { complexFft } from './fft'
import type { Hertz, Seconds } from '../units'

const turn = (curve: Curve, a: number, b: number) =>
  Math.atan2(
    curve.im[b]! * curve.re[a]! - curve.re[b]! * curve.im[a]!,
    curve.re[b]! * curve.re[a]! + curve.im[b]! * curve.im[a]!,
  )

/**
 * Phase in degrees without jumps: each point is within half a turn of the one before. Right where the grid is
 * finer than the phase turns.
 */
export function unwrappedPhase(curve: Curve): Float64Array {
  const out = new Float64Array(curve.re.length)
  out[0] = (Math.atan2(curve.im[0]!, curve.re[0]!) * 180) / Math.PI
  for (let k = 1; k < out.length; k++) out[k] = out[k - 1]! + (turn(curve, k - 1, k) * 180) / Math.PI
  return out
}

/** Group delay -dφ/dω in seconds, between each point's neighbours. */
export function groupDelay(curve: Curve): Float64Array {
  const { frequencies: f } = curve
  const last = f.length - 1
  return Float64Array.from(f, (_, k) => {
    const a = Math.max(0, k - 1)
    const b = Math.min(last, k + 1)
    return -turn(curve, a, b) / (2 * Math.PI * (f[b]! - f[a]!))
  })
}

/**
 * Group delay in seconds, averaged over a width in octaves, each step of phase weighted by the power it carries: where
 * reflections cancel, the phase turns wildly but carries nothing. NaN where there is no power at all. The grid is
 * logarithmic, so that a width is as many points everywhere.
 */
export function smoothedGroupDelay(curve: Curve, octaves: number): Float64Array {
  const { frequencies: f, re, im } = curve
  const steps = f.length - 1
  const weights = new Float64Array(steps + 1)
  const sums = new Float64Array(steps + 1)
  for (let k = 0; k < steps; k++) {
    const power = Math.hypot(re[k]!, im[k]!) * Math.hypot(re[k + 1]!, im[k + 1]!)
    const delay = -turn(curve, k, k + 1) / (2 * Math.PI * (f[k + 1]! - f[k]!))
    weights[k + 1] = weights[k]! + power
    sums[k + 1] = sums[k]! + power * delay
  }
  const half = Math.max(1, Math.round((octaves / 2) / Math.log2(f[1]! / f[0]!)))
  return Float64Array.from(f, (_, k) => {
    const reach = Math.max(1, Math.min(half, k, steps - k)) // never lopsided
    const [a, b] = [Math.max(0, k - reach), Math.min(steps, k + reach)]
    const weight = weights[b]! - weights[a]!
    return weight > 0 ? (sums[b]! - sums[a]!) / weight : Number.NaN
  })
}

/** Step response: the running sum of an impulse response. */
export function stepResponse(impulse: ArrayLike<number>): Float32Array {
  const out = new Float32Array(impulse.length)
  let sum = 0
  for (let n = 0; n < out.length; n++) out[n] = sum += impulse[n]!
  return out
}

/**
 * Hilbert envelope of a response: the size of its analytic signal (Marple 1999, as scipy.signal.hilbert), the
 * response taken as silent beyond its ends.
 */
export function envelope(response: ArrayLike<number>): Float32Array {
  const size = 2 ** Math.ceil(Math.log2(Math.max(2, response.length)))
  const re = new Float64Array(size)
  const im = new Float64Array(size)
  const fft = complexFft(size)
  for (let n = 0; n < response.length; n++) re[n] = response[n]!
  fft.forward(re, im)
  for (let k = 1; k < size / 2; k++) {
    re[k]! *= 2
    im[k]! *= 2
    re[size - k] = im[size - k] = 0
  }
  fft.inverse(re, im)
  return Float32Array.from({ length: response.length }, (_, n) => Math.hypot(re[n]!, im[n]!))
}

/**
 * An impulse response on a grid of frequencies: Σ h[n] e^(-iωt), times counted from `start` (s). Slow, exact at
 * any frequency.
 */
export function curveOfImpulse(
  impulse: ArrayLike<number>,
  sampleRate: Hertz,
  start: Seconds,
  frequencies: Float64Array,
): Curve {
  const re = new Float64Array(frequencies.length)
  const im = new Float64Array(frequencies.length)
  frequencies.forEach((f, k) => {
    if (f > sampleRate / 2) return
    const step = (2 * Math.PI * f) / sampleRate
    const c = Math.cos(step)
    const s = -Math.sin(step)
    let pr = Math.cos(2 * Math.PI * f * start)
    let pi = -Math.sin(2 * Math.PI * f * start)
    let sr = 0
    let si = 0
    for (let n = 0; n < impulse.length; n++) {
      const h = impulse[n]!
      sr += h * pr
      si += h * pi
      const t = pr * c - pi * s
      pi = pi * c + pr * s
      pr = t
    }
    re[k] = sr
    im[k] = si
  })
  return { frequencies, re, im, coherence: null }
}

/**
 * A curve on another ascending grid: level and phase between neighbours straight over log frequency; silence
 * outside its range.
 */
export function onGrid(curve: Curve, grid: Float64Array): Curve {
  const { frequencies: f } = curve
  const n = f.length
  if (n === grid.length && f.every((v, k) => Math.abs(v / grid[k]! - 1) < 1e-6))
    return { ...curve, frequencies: grid }
  const level = Float64Array.from(f, (_, k) => Math.log(Math.max(1e-12, Math.hypot(curve.re[k]!, curve.im[k]!))))
  const angle = unwrappedPhase(curve)
  const out: Curve = {
    frequencies: grid,
    re: new Float64Array(grid.length),
    im: new Float64Array(grid.length),
    coherence: curve.coherence && new Float64Array(grid.length),
    averages: curve.averages ? new Float64Array(grid.length) : null,
  }
  let at = 0
  grid.forEach((g, k) => {
    if (g < f[0]! * 0.9999 || g > f[n - 1]! * 1.0001) return
    while (at < n - 2 && f[at + 1]! < g) at++
    const t = Math.max(0, Math.min(1, Math.log(g / f[at]!) / Math.log(f[at + 1]! / f[at]!)))
    const between = (values: Float64Array) => values[at]! + t * (values[at + 1]! - values[at]!)
    const size = Math.exp(between(level))
    const phi = (between(angle) * Math.PI) / 180
    out.re[k] = size * Math.cos(phi)
    out.im[k] = size * Math.sin(phi)
    if (out.coherence) out.coherence[k] = between(curve.coherence!)
    if (out.averages) out.averages[k] = between(curve.averages!)
  })
  return out
}

const notes = ['A', 'A♯', 'B', 'C', 'C♯', 'D', 'D♯', 'E', 'F', 'F♯', 'G', 'G♯']
/** Nearest note of equal temperament (A4 = 440 Hz) and how far off it is in cents: 'A4 +3'. */
export function nearestNote(f: Hertz): string {
  const steps = 12 * Math.log2(f / 440)
  const whole = Math.round(steps)
  const cents = Math.round(100 * (steps - whole))
  const off = cents ? ` ${cents > 0 ? '+' : '−'}${Math.abs(cents)}` : ''
  return `${notes[((whole % 12) + 12) % 12]}${Math.floor((whole + 9) / 12) + 4}${off}`
}
