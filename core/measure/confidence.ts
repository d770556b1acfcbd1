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

/** What a level falls to whose circle holds 0. */
const nothing = 1e-10

/** Limits of a curve's level in dB by `uncertaintyOf`, NaN where nothing is known; null when it has none. */
export function confidenceBand(curve: Curve): { low: Float64Array, high: Float64Array } | null {
  const radius = uncertaintyOf(curve)
  if (!radius) return null
  const level = (k: number) => 10 * Math.log10(curve.re[k]! ** 2 + curve.im[k]! ** 2)
  const known = (k: number, ratio: number) =>
    radius[k]! < Infinity && (curve.re[k] !== 0 || curve.im[k] !== 0) ? level(k) + 20 * Math.log10(ratio) : Number.NaN
  return {
    low: radius.map((r, k) => known(k, Math.max(nothing, 1 - r))),
    high: radius.map((r, k) => known(k, 1 + r)),
  }
}
