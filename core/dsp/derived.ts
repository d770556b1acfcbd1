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

/** Steps over which the delay is averaged that the next step is expected to have. */
const memory = 12

/**
 * Delay -Δφ/Δω in seconds of each step of a grid, and the power it carries. On a logarithmic grid a step high up is so
 * wide that its phase may turn more than once (48 points an octave: 2.3 ms at 15 kHz): each is taken as the turn that
 * lies nearest to the delay of the steps below, where nothing is ambiguous.
 */
function stepDelays(curve: Curve): { delays: Float64Array, powers: Float64Array } {
  const { frequencies: f, re, im } = curve
  const delays = new Float64Array(Math.max(0, f.length - 1))
  const powers = delays.map((_, k) => Math.hypot(re[k]!, im[k]!) * Math.hypot(re[k + 1]!, im[k + 1]!))
  let mean = 0
  let weight = 0
  for (let k = 0; k < delays.length; k++) {
    const width = 2 * Math.PI * (f[k + 1]! - f[k]!)
    const own = -turn(curve, k, k + 1)
    const expected = weight > 0 ? (mean / weight) * width : own
    const delay = (own + 2 * Math.PI * Math.round((expected - own) / (2 * Math.PI))) / width
    delays[k] = delay
    mean += powers[k]! * delay - mean / memory
    weight += powers[k]! - weight / memory
  }
  return { delays, powers }
}

/** Group delay -dφ/dω in seconds, between each point's neighbours. */
export function groupDelay(curve: Curve): Float64Array {
  const { frequencies: f } = curve
  const { delays } = stepDelays(curve)
  const last = delays.length - 1
  return Float64Array.from(f, (_, k) => {
    const [a, b] = [Math.max(0, k - 1), Math.min(last, k)]
    const [below, above] = [f[a + 1]! - f[a]!, f[b + 1]! - f[b]!]
    return (delays[a]! * below + delays[b]! * above) / (below + above)
  })
}

/**
 * Group delay in seconds, averaged over a width in octaves, each step of phase weighted by the power it carries: where
 * reflections cancel, the phase turns wildly but carries nothing. NaN where there is no power at all. The grid is
 * logarithmic, so that a width is as many points everywhere.
 */
export function smoothedGroupDelay(curve: Curve, octaves: number): Float64Array {
  const { frequencies: f } = curve
  const steps = f.length - 1
  const { delays, powers } = stepDelays(curve)
  const weights = new Float64Array(steps + 1)
  const sums = new Float64Array(steps + 1)
  for (let k = 0; k < steps; k++) {
    weights[k + 1] = weights[k]! + powers[k]!
    sums[k + 1] = sums[k]! + powers[k]! * delays[k]!
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
