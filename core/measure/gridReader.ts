import type { Curve } from '../dsp'
import type { Hertz, Seconds } from '../units'
import type { Independence } from './confidence'
import type { DualChannel } from './dualChannel'

/**
 * How a point's magnitude is told from noisy blocks (Bendat & Piersol 2010, Random Data, ch. 6 and 9). H1: noise at
 * the microphone falls out; H2: noise at the reference falls out, the microphone's raises it; Hg: the geometric mean of
 * both, true where noise is as large a part of either. The phase is the same for all.
 */
export const estimators = ['H1', 'H2', 'Hg'] as const
export type Estimator = (typeof estimators)[number]

/** What is read onto the grid: all columns are filled. */
export type MeasuredCurve = Curve & { coherence: Float64Array, averages: Float64Array }

export const measuredCurve = (frequencies: Float64Array): MeasuredCurve => {
  const column = () => new Float64Array(frequencies.length)
  return { frequencies, re: column(), im: column(), coherence: column(), averages: column() }
}

/** The lowest frequency that blocks resolve: `lobe` bins, half of what their window makes of a tone. */
export const lowestOf = (length: number, sampleRate: Hertz, lobe: number): Hertz => (lobe * sampleRate) / length

interface GridOptions {
  estimator: Estimator
  /** Bins from a tone to where its window falls silent: below so many nothing is read. */
  lobe: number
  independence: Independence
}

/** Ratio of an estimator's magnitude to H1's, squared, from the powers and the squared cross power. */
function raised(kind: Estimator, xx: number, yy: number, cross: number): number {
  if (kind === 'H1' || cross <= 0) return 1
  const overH1 = (xx * yy) / cross // 1/γ²
  return kind === 'Hg' ? overH1 : overH1 * overH1
}

/**
 * Reads an analyser's average onto a logarithmic grid. Above about 1 kHz several bins share a grid point: the
 * magnitude is their power mean, the phase that of their complex mean (both weighted by the reference's power), the
 * coherence their mean. Below, the complex value is interpolated between bins. `read` allocates nothing; `late` is a
 * delay still in the microphone channel, in seconds, that is taken out of the phase. Grid points below what the
 * blocks resolve, and past the transform's reach, get 0.
 */
export function gridReader(
  grid: Float64Array,
  length: number,
  sampleRate: Hertz,
  { estimator, lobe, independence }: GridOptions,
) {
  const bin = sampleRate / length
  const last = length / 2 - 1
  const half = grid.length > 1 ? Math.sqrt(grid[1]! / grid[0]!) : 1.01
  const from = Int32Array.from(grid, f => Math.max(1, Math.ceil(f / half / bin)))
  const to = Int32Array.from(grid, f => Math.min(last, Math.floor((f * half) / bin)))
  const shared = Float64Array.from(grid, (_, p) => Math.max(1, independence.bins(to[p]! - from[p]! + 1)))
  const lowest = lowestOf(length, sampleRate, lobe)
  const usable = grid.findLastIndex(f => f < bin * last) + 1
  /** The point that was read last. */
  let re = 0
  let im = 0
  let gamma = 0

  /** Mean of the bins that share a point. */
  function readShared({ sxx, syy, sxyRe, sxyIm }: DualChannel, p: number) {
    let weight = 0
    let sr = 0
    let si = 0
    let power = 0
    gamma = 0
    for (let k = from[p]!; k <= to[p]!; k++) {
      const xx = sxx[k]!
      const cr = sxyRe[k]!
      const ci = sxyIm[k]!
      if (xx <= 0) continue
      const cross = cr * cr + ci * ci
      weight += xx
      sr += cr
      si += ci
      power += (cross / xx) * raised(estimator, xx, syy[k]!, cross)
      gamma += syy[k]! > 0 ? cross / (xx * syy[k]!) : 0
    }
    const complex = Math.hypot(sr, si)
    const scale = weight > 0 && complex > 0 ? Math.sqrt(power / weight) / complex : 0
    re = sr * scale
    im = si * scale
    gamma /= to[p]! - from[p]! + 1
  }

  /** Between two neighbouring bins; nothing where the reference is silent. */
  function readBetween({ sxx, syy, sxyRe, sxyIm }: DualChannel, p: number) {
    const at = Math.max(1, grid[p]! / bin)
    const k = Math.min(last - 1, Math.floor(at))
    const t = at - k
    re = im = gamma = 0
    for (let side = 0; side < 2; side++) {
      const n = k + side
      const xx = sxx[n]!
      if (xx <= 0) {
        re = im = gamma = 0
        return
      }
      const cross = sxyRe[n]! ** 2 + sxyIm[n]! ** 2
      const w = side ? t : 1 - t
      const size = (w * Math.sqrt(raised(estimator, xx, syy[n]!, cross))) / xx
      re += size * sxyRe[n]!
      im += size * sxyIm[n]!
      gamma += syy[n]! > 0 ? (w * cross) / (xx * syy[n]!) : 0
    }
  }

  return {
    read(average: DualChannel, late: Seconds, out: MeasuredCurve, first = 0, end = grid.length) {
      const { coherence, averages } = out
      const blocks = independence.blocks(average.blocks)
      for (let p = first; p < end; p++) {
        if (p >= usable || grid[p]! < lowest) {
          out.re[p] = out.im[p] = coherence[p] = averages[p] = 0
          continue
        }
        if (to[p]! - from[p]! >= 2) readShared(average, p)
        else readBetween(average, p)
        const w = 2 * Math.PI * grid[p]! * late
        const c = Math.cos(w)
        const s = Math.sin(w)
        out.re[p] = re * c - im * s
        out.im[p] = re * s + im * c
        coherence[p] = Math.min(1, gamma)
        averages[p] = blocks * (to[p]! - from[p]! >= 2 ? shared[p]! : 1)
      }
    },
  }
}
