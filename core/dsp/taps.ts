import type { Hertz } from '../units'
import type { Curve } from './curve'

/** Number of the largest coefficient: how many samples the filter delays what it lets through, near enough. */
export const tapsDelay = (taps: ArrayLike<number>): number => {
  let at = 0
  for (let n = 1; n < taps.length; n++) if (Math.abs(taps[n]!) > Math.abs(taps[at]!)) at = n
  return at
}

/** Multiplies `curve` in place by the response of coefficients that run at `sampleRate`: Σ h[n]·e^(-jωn). */
export function applyTaps(curve: Curve, taps: ArrayLike<number>, sampleRate: Hertz): void {
  const { frequencies, re, im } = curve
  for (let k = 0; k < frequencies.length; k++) {
    const w = (-2 * Math.PI * frequencies[k]!) / sampleRate
    const c = Math.cos(w)
    const s = Math.sin(w)
    // Horner from the last coefficient: one complex multiplication each
    let hr = 0
    let hi = 0
    for (let n = taps.length - 1; n >= 0; n--) {
      const t = hr * c - hi * s + taps[n]!
      hi = hr * s + hi * c
      hr = t
    }
    const r = re[k]!
    re[k] = r * hr - im[k]! * hi
    im[k] = r * hi + im[k]! * hr
  }
}
