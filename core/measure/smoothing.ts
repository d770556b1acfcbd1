import { gridPerOctave, type Curve } from '../dsp'

/** Widths on offer, as parts of an octave: 1/48 is the grid itself. */
export const smoothings = [48, 24, 12, 6, 3, 2, 1] as const

const isSilent = ({ re, im }: Curve, k: number) => re[k] === 0 && im[k] === 0

/**
 * A curve on the standard grid smoothed over 1/`part` octave: magnitude as power mean, phase from the complex
 * mean, coherence as
 * mean, under a Hann-shaped weight in log frequency; with `complex` the magnitude too is that of the complex
 * mean. Silent points stay silent and take no part. `part` at or above the grid's 48 gives the curve itself.
 */
export function smooth(curve: Curve, part: number, perOctave = gridPerOctave, complex = false): Curve {
  const half = perOctave / part // Hann base = two widths, so that its half-height width is 1/part octave
  if (half <= 1) return curve
  const reach = Math.ceil(half) - 1
  const weights = Float64Array.from(
    { length: 2 * reach + 1 },
    (_, j) => 0.5 + 0.5 * Math.cos((Math.PI * (j - reach)) / half),
  )
  const n = curve.frequencies.length
  const re = new Float64Array(n)
  const im = new Float64Array(n)
  const coherence = curve.coherence && new Float64Array(n)
  for (let k = 0; k < n; k++) {
    if (isSilent(curve, k)) continue
    let total = 0
    let sr = 0
    let si = 0
    let power = 0
    let gamma = 0
    for (let j = -reach; j <= reach; j++) {
      const i = k + j
      if (i < 0 || i >= n || isSilent(curve, i)) continue
      const w = weights[j + reach]!
      const r = curve.re[i]!
      const m = curve.im[i]!
      total += w
      sr += w * r
      si += w * m
      power += w * (r * r + m * m)
      if (coherence) gamma += w * curve.coherence![i]!
    }
    const mean = Math.hypot(sr, si)
    const level = mean > 0 ? Math.sqrt(power / total) / mean : 0
    const scale = complex ? 1 / total : level
    re[k] = sr * scale
    im[k] = si * scale
    if (coherence) coherence[k] = gamma / total
  }
  return { ...curve, re, im, coherence }
}
