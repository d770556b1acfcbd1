import type { Hertz } from '../units'
import type { Section } from './biquad'
import { refusal } from '../words'

export const families = ['butterworth', 'linkwitz-riley', 'bessel'] as const
export type Family = (typeof families)[number]
export type PassKind = 'low' | 'high'
/**
 * What a Bessel filter's frequency means: its level is -3.01 dB there; or (low-pass) it delays the lows by 1/(2πf), as
 * its polynomial has it; or its phase far above and below is that of a Butterworth filter of the same frequency.
 */
export const besselNorms = ['magnitude', 'delay', 'phase'] as const
export type BesselNorm = (typeof besselNorms)[number]

interface Pole {
  re: number
  im: number
}

/** Upper-half-plane and real poles of the analogue low-pass of `order`, cut-off 1 rad/s. */
const prototypePoles: Record<'butterworth' | 'bessel', (order: number, norm: BesselNorm) => Pole[]> = {
  butterworth: order =>
    Array.from({ length: Math.ceil(order / 2) }, (_, k) => {
      const angle = (Math.PI * (2 * k + 1 + order)) / (2 * order)
      return 2 * k + 1 === order ? { re: -1, im: 0 } : { re: Math.cos(angle), im: Math.sin(angle) }
    }),
  bessel: besselPoles,
}

/**
 * Sections of a classical high- or low-pass of `order` (slope 6 dB an octave each), bilinear transform
 * prewarped at `f`.
 * Butterworth is -3.01 dB at `f`, Linkwitz–Riley (two equal Butterworth filters) -6.02 dB, Bessel by its `norm`.
 * Throws RangeError for an order outside 1…8, an odd Linkwitz–Riley order, or `f` outside 0…sampleRate/2.
 * Sources: Butterworth 1930; Thomson 1949 (Bessel); Linkwitz 1976.
 */
export function classical(
  family: Family,
  kind: PassKind,
  order: number,
  f: Hertz,
  sampleRate: Hertz,
  norm: BesselNorm = 'magnitude',
): Section[] {
  if (!Number.isInteger(order) || order < 1 || order > 8) throw refusal('filter.noOrder', { order })
  if (!(f > 0 && f < sampleRate / 2))
    throw refusal('filter.beyondRate', { frequency: f, sampleRate })
  if (family === 'linkwitz-riley') {
    if (order % 2) throw refusal('filter.oddLinkwitzRiley', { order })
    const once = classical('butterworth', kind, order / 2, f, sampleRate)
    return [...once, ...once]
  }
  const k = Math.tan((Math.PI * f) / sampleRate)
  return prototypePoles[family](order, norm).map(pole => bilinear(pole, kind, k))
}

/** One pole (pair) moved to the z-plane; for a high-pass s becomes 1/s first. */
function bilinear(pole: Pole, kind: PassKind, k: number): Section {
  const size = pole.re ** 2 + pole.im ** 2
  if (pole.im === 0) {
    const c = kind === 'low' ? -pole.re * k : k / -pole.re
    const g = kind === 'low' ? c : 1
    return [g / (1 + c), (kind === 'low' ? g : -g) / (1 + c), 0, (c - 1) / (1 + c), 0]
  }
  const a = (kind === 'low' ? -2 * pole.re : (-2 * pole.re) / size) * k
  const b = (kind === 'low' ? size : 1 / size) * k * k
  const a0 = 1 + a + b
  const g = kind === 'low' ? b : 1
  return [g / a0, ((kind === 'low' ? 2 : -2) * g) / a0, g / a0, (2 * b - 2) / a0, (1 - a + b) / a0]
}

/** Roots of the reverse Bessel polynomial, scaled so that 1 rad/s means what `norm` says. */
function besselPoles(order: number, norm: BesselNorm): Pole[] {
  const factorial = (n: number): number => (n < 2 ? 1 : n * factorial(n - 1))
  const coefficient = (k: number) =>
    factorial(2 * order - k) / (factorial(order - k) * factorial(k) * 2 ** (order - k))
  const polynomial = Array.from({ length: order + 1 }, (_, k) => coefficient(k)) // ascending, monic
  const evaluate = ({ re, im }: Pole): Pole => {
    let r = 0
    let i = 0
    for (let k = order; k >= 0; k--) [r, i] = [r * re - i * im + polynomial[k]!, r * im + i * re]
    return { re: r, im: i }
  }
  const roots = durandKerner(evaluate, order, polynomial[0]! ** (1 / order))
  const powerAt = (w: number) => {
    const v = evaluate({ re: 0, im: w })
    return polynomial[0]! ** 2 / (v.re ** 2 + v.im ** 2)
  }
  /** What one radian a second of the norm is for the polynomial, whose own is that of its delay. */
  const units: Record<BesselNorm, () => number> = {
    delay: () => 1,
    phase: () => polynomial[0]! ** (1 / order),
    magnitude: () => halfPower(powerAt),
  }
  const unit = units[norm]()
  return roots
    .filter(r => r.im > -1e-7)
    .map(r => ({ re: r.re / unit, im: Math.abs(r.im) < 1e-7 ? 0 : r.im / unit }))
}

/** Where a power that falls from 1 is a half, in rad/s. */
function halfPower(powerAt: (w: number) => number): number {
  let low = 0
  let high = 10
  for (let n = 0; n < 80; n++) {
    const mid = (low + high) / 2
    if (powerAt(mid) > 0.5) low = mid
    else high = mid
  }
  return low
}

/** All roots of a monic polynomial at once (Weierstrass / Durand–Kerner iteration). */
function durandKerner(evaluate: (z: Pole) => Pole, order: number, radius: number): Pole[] {
  const z: Pole[] = Array.from({ length: order }, (_, k) => {
    const angle = (2 * Math.PI * k) / order + 0.4
    return { re: radius * Math.cos(angle), im: radius * Math.sin(angle) }
  })
  for (let round = 0; round < 400; round++) {
    for (let k = 0; k < order; k++) {
      const value = evaluate(z[k]!)
      let dr = 1
      let di = 0
      for (let j = 0; j < order; j++) {
        if (j === k) continue
        const er = z[k]!.re - z[j]!.re
        const ei = z[k]!.im - z[j]!.im
        ;[dr, di] = [dr * er - di * ei, dr * ei + di * er]
      }
      const d = dr * dr + di * di
      z[k] = {
        re: z[k]!.re - (value.re * dr + value.im * di) / d,
        im: z[k]!.im - (value.im * dr - value.re * di) / d,
      }
    }
  }
  return z
}
