import type { Curve } from '../dsp'

/** The shape that correlations are told from: they do not depend on a window's length. */
const shape = 1024
/** Part of measurements whose truth lies outside the limits. */
const outside = 0.05

/** How many independent averages lie behind blocks that share sound, and behind bins that share a window. */
export interface Independence {
  blocks(count: number): number
  bins(count: number): number
}

/**
 * Independence of blocks that overlap by a part 0 … 0.95 under a window, for noise (Welch 1967, IEEE Trans. AU-15, 70;
 * Harris 1978, Proc. IEEE 66, 51, eq. (17)), and of neighbouring bins by the same window.
 */
export function independence(make: (length: number) => Float64Array, overlap: number): Independence {
  const window = make(shape)
  const energy = window.reduce((sum, v) => sum + v * v, 0)
  const hop = Math.max(1, Math.round(shape * (1 - overlap)))
  const shared: number[] = []
  for (let shift = hop; shift < shape; shift += hop) {
    let sum = 0
    for (let n = 0; n + shift < shape; n++) sum += window[n]! * window[n + shift]!
    shared.push((sum / energy) ** 2)
  }
  const leaked = [1, 2, 3].map((bin) => {
    let sum = 0
    for (let n = 0; n < shape; n++) sum += window[n]! ** 2 * Math.cos((2 * Math.PI * bin * (n - shape / 2)) / shape)
    return (sum / energy) ** 2
  })
  const effective = (count: number, alike: number[]) =>
    count <= 0 ? 0 : count / (1 + 2 * alike.reduce((sum, r, k) => sum + Math.max(0, 1 - (k + 1) / count) * r, 0))
  return { blocks: count => effective(count, shared), bins: count => effective(count, leaked) }
}

/**
 * Relative radius of the circle around each value in which the true value lies in 95 of 100 measurements
 * (Bendat & Piersol 2010, Random Data, eq. (9.85), with the closed form of Fisher's F for two degrees of freedom);
 * null without coherence or averages. Infinity where nothing is known. A value that no averages stand behind
 * (`averages` 1 or less: a sweep over measured noise) takes its coherence as known.
 */
export function uncertaintyOf({ coherence, averages }: Curve): Float64Array | null {
  if (!coherence || !averages) return null
  return coherence.map((c, k) => {
    const n = averages[k]!
    if (!(c > 0) || !(n > 0)) return Infinity
    const spread = n > 1 ? outside ** (-1 / (n - 1)) - 1 : -Math.log(outside) / n
    return Math.sqrt((spread * Math.max(0, 1 - c)) / c)
  })
}

/**
 * Student's t that is exceeded in size by 5 of 100, for `freedom` degrees. Source: Hill 1970, CACM 396; by its
 * closed form at 1 and 2.
 */
export function studentLimit(freedom: number): number {
  const p = outside
  if (freedom < 1.5) return 1 / Math.tan((p * Math.PI) / 2)
  if (freedom < 2.5) return Math.sqrt(2 / (p * (2 - p)) - 2)
  const a = 1 / (freedom - 0.5)
  const b = 48 / (a * a)
  let c = (((20_700 * a) / b - 98) * a - 16) * a + 96.36
  const d = ((94.5 / (b + c) - 3) / b + 1) * Math.sqrt((a * Math.PI) / 2) * freedom
  let y = (d * p) ** (2 / freedom)
  if (y > 0.05 + a) {
    const x = -1.959964 // of the normal distribution
    y = x * x
    if (freedom < 5) c += 0.3 * (freedom - 4.5) * (x + 0.6)
    c = (((0.05 * d * x - 5) * x - 7) * x - 2) * x + b + c
    y = (((((0.4 * y + 6.3) * y + 36) * y + 94.5) / c - y - 3) / b + 1) * x
    y = Math.expm1(a * y * y)
  }
  else {
    y = ((1 / (((freedom + 6) / (freedom * y) - 0.089 * d - 0.822) * (freedom + 2) * 3) + 0.5 / (freedom + 4)) * y - 1)
      * ((freedom + 1) / (freedom + 2)) + 1 / y
  }
  return Math.sqrt(freedom * y)
}

/**
 * Relative half-width of the interval of a level (of a value along its own direction) that holds the true one in 95 of
 * 100 measurements: one part of the circle of `uncertaintyOf`, by Student's t of 2n - 2 degrees of freedom (Bendat &
 * Piersol 2010, eq. (9.85) with F of one and 2n - 2). Null and Infinity as there.
 */
export function levelUncertainty({ coherence, averages }: Curve): Float64Array | null {
  if (!coherence || !averages) return null
  return coherence.map((c, k) => {
    const n = averages[k]!
    if (!(c > 0) || !(n > 0)) return Infinity
    const freedom = 2 * n - 2
    const spread = n > 1 ? studentLimit(freedom) ** 2 / freedom : studentLimit(1e6) ** 2 / (2 * n)
    return Math.sqrt((spread * Math.max(0, 1 - c)) / c)
  })
}

/** What a level falls to whose interval holds 0. */
const nothing = 1e-10

/** Limits of a curve's level in dB by `levelUncertainty`, NaN where nothing is known; null when it has none. */
export function confidenceBand(curve: Curve): { low: Float64Array, high: Float64Array } | null {
  const radius = levelUncertainty(curve)
  if (!radius) return null
  const level = (k: number) => 10 * Math.log10(curve.re[k]! ** 2 + curve.im[k]! ** 2)
  const known = (k: number, ratio: number) =>
    radius[k]! < Infinity && (curve.re[k] !== 0 || curve.im[k] !== 0) ? level(k) + 20 * Math.log10(ratio) : Number.NaN
  return {
    low: radius.map((r, k) => known(k, Math.max(nothing, 1 - r))),
    high: radius.map((r, k) => known(k, 1 + r)),
  }
}
