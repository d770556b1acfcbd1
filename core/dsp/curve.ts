import type { Decibels, Hertz } from '../units'

/**
 * The one curve type: complex values over ascending frequencies. `re`, `im` are ratios (output over input, linear),
 * `coherence` is γ² in 0…1, or null where the data has none (a calculated or imported curve). `averages`: independent
 * averages behind each value, where they are known; 1 where the coherence is not of averages but of measured noise.
 */
export interface Curve {
  frequencies: Float64Array
  re: Float64Array
  im: Float64Array
  coherence: Float64Array | null
  averages?: Float64Array | null
}

/**
 * Ascending frequencies, `perOctave` points an octave, from `low` to `high` inclusive of `low`. Throws
 * RangeError on an empty range.
 */
export function logGrid(perOctave: number, low: Hertz, high: Hertz): Float64Array {
  if (!(low > 0 && high > low && perOctave > 0))
    throw new RangeError(`No frequencies between ${low} and ${high} Hz at ${perOctave} an octave`)
  const count = Math.floor(Math.log2(high / low) * perOctave + 1e-9) + 1
  return Float64Array.from({ length: count }, (_, k) => low * 2 ** (k / perOctave))
}

/** Points an octave of every curve that is measured, kept and drawn. */
export const gridPerOctave = 48

/** The grid of every measured curve: 48 points an octave from 15.625 Hz (so that 1 kHz is a point) to 22 kHz. */
export const standardGrid: Float64Array = logGrid(gridPerOctave, 15.625, 22_000)

/** A curve of ratio 1 on `frequencies`. */
export const unity = (frequencies: Float64Array): Curve => ({
  frequencies,
  re: new Float64Array(frequencies.length).fill(1),
  im: new Float64Array(frequencies.length),
  coherence: null,
})

/** a·b point by point; coherence and averages are a's. Both must share a grid: throws RangeError otherwise. */
export function multiply(a: Curve, b: Curve): Curve {
  return combine(a, b, (ar, ai, br, bi) => [ar * br - ai * bi, ar * bi + ai * br])
}

/** a/b point by point; coherence and averages are a's. Where b is silent (below 1e-12) the quotient is 0. */
export function divide(a: Curve, b: Curve): Curve {
  return combine(a, b, (ar, ai, br, bi) => {
    const d = br * br + bi * bi
    return d < 1e-24 ? [0, 0] : [(ar * br + ai * bi) / d, (ai * br - ar * bi) / d]
  })
}

function combine(
  a: Curve,
  b: Curve,
  f: (ar: number, ai: number, br: number, bi: number) => [number, number],
): Curve {
  const n = a.frequencies.length
  if (b.frequencies.length !== n)
    throw new RangeError(`Curves of ${n} and ${b.frequencies.length} points do not share a grid`)
  const re = new Float64Array(n)
  const im = new Float64Array(n)
  for (let k = 0; k < n; k++) [re[k], im[k]] = f(a.re[k]!, a.im[k]!, b.re[k]!, b.im[k]!) as [number, number]
  return { ...a, re, im }
}

/** Magnitude in dB at each point; never below `floor` dB. */
export function magnitude(curve: Curve, floor = -200): Float64Array {
  return curve.re.map((re, k) => Math.max(floor, 10 * Math.log10(re * re + curve.im[k]! ** 2)))
}

/** Phase in degrees, (-180, 180], at each point. */
export const phase = (curve: Curve): Float64Array =>
  curve.re.map((re, k) => (Math.atan2(curve.im[k]!, re) * 180) / Math.PI)

/** A curve of its own with the same values. */
export const copyOf = (curve: Curve): Curve =>
  ({ ...curve, re: Float64Array.from(curve.re), im: Float64Array.from(curve.im) })

/** A curve of silence on `frequencies`. */
export const silence = (frequencies: Float64Array): Curve =>
  ({ frequencies, re: new Float64Array(frequencies.length), im: new Float64Array(frequencies.length), coherence: null })

/** Adds `other` to `curve` in place. Both must share a grid: throws RangeError otherwise. */
export function addTo(curve: Curve, other: Curve): void {
  const n = curve.re.length
  if (other.re.length !== n) throw new RangeError(`Curves of ${n} and ${other.re.length} points do not share a grid`)
  for (let k = 0; k < n; k++) {
    curve.re[k]! += other.re[k]!
    curve.im[k]! += other.im[k]!
  }
}

/** Mean of a curve's level from `low` to `high`, in dB; NaN where the curve has nothing between them. */
export function meanLevel(curve: Curve, low: Hertz, high: Hertz): Decibels {
  const level = magnitude(curve)
  let sum = 0
  let count = 0
  curve.frequencies.forEach((f, k) => {
    if (f < low || f > high) return
    sum += level[k]!
    count++
  })
  return sum / count
}
