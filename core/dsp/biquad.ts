import type { Decibels, Hertz } from '../units'
import type { Curve } from './curve'
import { refusal } from '../words'

/** Coefficients b0, b1, b2, a1, a2 of one second-order section, a0 = 1. */
export type Section = readonly [b0: number, b1: number, b2: number, a1: number, a2: number]

const normalise = (b0: number, b1: number, b2: number, a0: number, a1: number, a2: number): Section => [
  b0 / a0,
  b1 / a0,
  b2 / a0,
  a1 / a0,
  a2 / a0,
]

function prepare(f: Hertz, q: number, sampleRate: Hertz) {
  if (!(f > 0 && f < sampleRate / 2))
    throw refusal('filter.beyondRate', { frequency: f, sampleRate })
  if (!(q > 0)) throw refusal('filter.noQ', { q })
  const w = (2 * Math.PI * f) / sampleRate
  return { cos: Math.cos(w), alpha: Math.sin(w) / (2 * q) }
}

// All forms below: Audio EQ Cookbook (R. Bristow-Johnson, W3C Note 2021). Each throws RangeError when `f` is not
// between 0 and half the sample rate or `q` is not above 0.

/** Peaking EQ: `gain` dB at `f`, 0 dB far from it. */
export function peaking(f: Hertz, gain: Decibels, q: number, sampleRate: Hertz): Section {
  const { cos, alpha } = prepare(f, q, sampleRate)
  const a = 10 ** (gain / 40)
  return normalise(1 + alpha * a, -2 * cos, 1 - alpha * a, 1 + alpha / a, -2 * cos, 1 - alpha / a)
}

/** Low shelf: `gain` dB at DC, half of it (in dB) at `f`. */
export function lowShelf(f: Hertz, gain: Decibels, q: number, sampleRate: Hertz): Section {
  return shelf(f, gain, q, sampleRate, 1)
}

/** High shelf: `gain` dB at Nyquist, half of it (in dB) at `f`. */
export function highShelf(f: Hertz, gain: Decibels, q: number, sampleRate: Hertz): Section {
  return shelf(f, gain, q, sampleRate, -1)
}

function shelf(f: Hertz, gain: Decibels, q: number, sampleRate: Hertz, side: 1 | -1): Section {
  const { cos, alpha } = prepare(f, q, sampleRate)
  const a = 10 ** (gain / 40)
  const c = side * cos
  const r = 2 * Math.sqrt(a) * alpha
  return normalise(
    a * (a + 1 - (a - 1) * c + r),
    side * 2 * a * (a - 1 - (a + 1) * c),
    a * (a + 1 - (a - 1) * c - r),
    a + 1 + (a - 1) * c + r,
    side * -2 * (a - 1 + (a + 1) * c),
    a + 1 + (a - 1) * c - r,
  )
}

/** Second-order all-pass: 0 dB everywhere, -180° at `f`. */
export function allPass(f: Hertz, q: number, sampleRate: Hertz): Section {
  const { cos, alpha } = prepare(f, q, sampleRate)
  return normalise(1 - alpha, -2 * cos, 1 + alpha, 1 + alpha, -2 * cos, 1 - alpha)
}

/** Band-pass: 0 dB at `f`, silence far from it. */
export function bandPassSection(f: Hertz, q: number, sampleRate: Hertz): Section {
  const { cos, alpha } = prepare(f, q, sampleRate)
  return normalise(alpha, 0, -alpha, 1 + alpha, -2 * cos, 1 - alpha)
}

/** Second-order low- or high-pass by its Q: `20·log10(q)` dB at `f`. */
export function resonantPass(side: 'low' | 'high', f: Hertz, q: number, sampleRate: Hertz): Section {
  const { cos, alpha } = prepare(f, q, sampleRate)
  const b = side === 'low' ? (1 - cos) / 2 : (1 + cos) / 2
  return normalise(b, side === 'low' ? 2 * b : -2 * b, b, 1 + alpha, -2 * cos, 1 - alpha)
}

/** First-order all-pass: 0 dB everywhere, -90° at `f` (bilinear transform of (1 - s)/(1 + s), prewarped at `f`). */
export function firstAllPass(f: Hertz, sampleRate: Hertz): Section {
  prepare(f, 1, sampleRate)
  const k = Math.tan((Math.PI * f) / sampleRate)
  const a = (k - 1) / (k + 1)
  return [a, 1, 0, a, 0]
}

/** Q of a shelf by its slope: 1 is the steepest that neither rises over nor falls under its ends (Cookbook's S). */
export function shelfQ(slope: number, gain: Decibels): number {
  const a = 10 ** (gain / 40)
  const square = (a + 1 / a) * (1 / slope - 1) + 2
  if (!(slope > 0) || !(square > 0)) throw refusal('filter.noShelfSlope', { gain, slope })
  return 1 / Math.sqrt(square)
}

/** Notch: silence at `f`. */
export function notch(f: Hertz, q: number, sampleRate: Hertz): Section {
  const { cos, alpha } = prepare(f, q, sampleRate)
  return normalise(1, -2 * cos, 1, 1 + alpha, -2 * cos, 1 - alpha)
}

/** Multiplies `curve` in place by the response of `sections` running at `sampleRate`. */
export function applySections(curve: Curve, sections: readonly Section[], sampleRate: Hertz): void {
  if (!sections.length) return
  const { frequencies, re, im } = curve
  for (let k = 0; k < frequencies.length; k++) {
    const w = (2 * Math.PI * frequencies[k]!) / sampleRate
    const c1 = Math.cos(w)
    const s1 = -Math.sin(w)
    const c2 = Math.cos(2 * w)
    const s2 = -Math.sin(2 * w)
    let hr = re[k]!
    let hi = im[k]!
    for (let n = 0; n < sections.length; n++) {
      const [b0, b1, b2, a1, a2] = sections[n]!
      const nr = b0 + b1 * c1 + b2 * c2
      const ni = b1 * s1 + b2 * s2
      const dr = 1 + a1 * c1 + a2 * c2
      const di = a1 * s1 + a2 * s2
      const d = dr * dr + di * di
      const qr = (nr * dr + ni * di) / d
      const qi = (ni * dr - nr * di) / d
      const t = hr * qr - hi * qi
      hi = hr * qi + hi * qr
      hr = t
    }
    re[k] = hr
    im[k] = hi
  }
}

/** Multiplies `curve` in place by a gain (ratio, negative turns the polarity) and a delay of `seconds`. */
export function applyGainAndDelay(curve: Curve, gain: number, seconds: number): void {
  const { frequencies, re, im } = curve
  if (gain === 1 && seconds === 0) return
  for (let k = 0; k < frequencies.length; k++) {
    const w = -2 * Math.PI * frequencies[k]! * seconds
    const c = gain * Math.cos(w)
    const s = gain * Math.sin(w)
    const r = re[k]!
    re[k] = r * c - im[k]! * s
    im[k] = r * s + im[k]! * c
  }
}

/** Runs `sections` over `signal` in place (direct form II transposed), from rest. */
export function filterInPlace(signal: Float64Array, sections: readonly Section[]): void {
  for (const [b0, b1, b2, a1, a2] of sections) {
    let z1 = 0
    let z2 = 0
    for (let n = 0; n < signal.length; n++) {
      const x = signal[n]!
      const y = b0 * x + z1
      z1 = b1 * x - a1 * y + z2
      z2 = b2 * x - a2 * y
      signal[n] = y
    }
  }
}
