import { hann, realFft, type Curve } from '../dsp'
import type { Hertz, Seconds } from '../units'

/** How blocks are averaged: forgetting with a time constant, or the plain mean of the last `count` blocks. */
export type Averaging = { kind: 'exponential', time: Seconds } | { kind: 'blocks', count: number }

export interface DualChannelOptions {
  sampleRate: Hertz
  /** Samples in a block, a power of two. */
  length: number
  /** Samples from one block's start to the next; sets the weight of a block in exponential averaging. */
  hop: number
  averaging: Averaging
}

/** Averaged spectra of one block length: a dual-channel analyser's state. */
export interface DualChannel {
  readonly options: DualChannelOptions
  /** Blocks behind the current average (for exponential averaging the effective count). */
  readonly blocks: number
  /** Adds one block of reference and microphone, `length` samples each. */
  push(reference: ArrayLike<number>, microphone: ArrayLike<number>): void
  restart(): void
  /** Spectra on `length / 2 + 1` bins: reference and microphone power, and the cross spectrum conj(X)·Y. */
  readonly sxx: Float64Array
  readonly syy: Float64Array
  readonly sxyRe: Float64Array
  readonly sxyIm: Float64Array
}

/**
 * Dual-channel FFT analyser, H1 = Sxy/Sxx with a Hann window (Bendat & Piersol 2010, Random Data, ch. 6).
 * Throws RangeError for a length that is no power of two or an averaging of no time or no block.
 */
export function createDualChannel(options: DualChannelOptions): DualChannel {
  const { length, averaging } = options
  if (averaging.kind === 'blocks' ? !(averaging.count >= 1) : !(averaging.time > 0)) throw new RangeError('Averaging needs a time above 0 or at least one block')
  const fft = realFft(length), window = hann(length), bins = length / 2 + 1
  const xr = new Float64Array(bins), xi = new Float64Array(bins), yr = new Float64Array(bins), yi = new Float64Array(bins)
  const work = new Float64Array(length)
  const sums = [0, 1, 2, 3].map(() => new Float64Array(bins)) as [Float64Array, Float64Array, Float64Array, Float64Array]
  const [sxx, syy, sxyRe, sxyIm] = sums
  const kept = averaging.kind === 'blocks' ? Array.from({ length: averaging.count }, () => sums.map(() => new Float64Array(bins))) : []
  const forget = averaging.kind === 'exponential' ? 1 - Math.exp(-options.hop / (options.sampleRate * averaging.time)) : 0
  let pushed = 0

  const transform = (input: ArrayLike<number>, re: Float64Array, im: Float64Array) => {
    for (let n = 0; n < length; n++) work[n] = input[n]! * window[n]!
    fft.forward(work, re, im)
  }

  const addForgetting = () => {
    const w = Math.max(forget, 1 / pushed)
    for (let k = 0; k < bins; k++) {
      sxx[k]! += w * (xr[k]! ** 2 + xi[k]! ** 2 - sxx[k]!)
      syy[k]! += w * (yr[k]! ** 2 + yi[k]! ** 2 - syy[k]!)
      sxyRe[k]! += w * (xr[k]! * yr[k]! + xi[k]! * yi[k]! - sxyRe[k]!)
      sxyIm[k]! += w * (xr[k]! * yi[k]! - xi[k]! * yr[k]! - sxyIm[k]!)
    }
  }

  const addRunning = () => {
    const [bxx, byy, bre, bim] = kept[(pushed - 1) % kept.length]! as [Float64Array, Float64Array, Float64Array, Float64Array]
    for (let k = 0; k < bins; k++) {
      bxx[k] = xr[k]! ** 2 + xi[k]! ** 2
      byy[k] = yr[k]! ** 2 + yi[k]! ** 2
      bre[k] = xr[k]! * yr[k]! + xi[k]! * yi[k]!
      bim[k] = xr[k]! * yi[k]! - xi[k]! * yr[k]!
    }
    // summed anew each time: subtracting the oldest would leave rounding dust behind
    const count = Math.min(pushed, kept.length)
    for (let s = 0; s < 4; s++) {
      const sum = sums[s]!.fill(0)
      for (let b = 0; b < count; b++) {
        const block = kept[b]![s]!
        for (let k = 0; k < bins; k++) sum[k]! += block[k]! / count
      }
    }
  }

  return {
    options, sxx, syy, sxyRe, sxyIm,
    get blocks() { return averaging.kind === 'blocks' ? Math.min(pushed, averaging.count) : Math.min(pushed, Math.round(2 / forget - 1)) },
    push(reference, microphone) {
      transform(reference, xr, xi)
      transform(microphone, yr, yi)
      pushed++
      if (averaging.kind === 'exponential') addForgetting()
      else addRunning()
    },
    restart() {
      pushed = 0
      for (const sum of sums) sum.fill(0)
    },
  }
}

/**
 * Reads an analyser's average onto a logarithmic grid. Above about 1 kHz several bins share a grid point: the magnitude is
 * their power mean, the phase that of their complex mean (both weighted by the reference's power), the coherence their mean.
 * Below, the complex value is interpolated between bins. `read` allocates nothing; `late` is a delay still in the
 * microphone channel, in seconds, that is taken out of the phase.
 */
export function gridReader(grid: Float64Array, length: number, sampleRate: Hertz) {
  const bin = sampleRate / length, last = length / 2 - 1
  const half = grid.length > 1 ? Math.sqrt(grid[1]! / grid[0]!) : 1.01
  const from = Int32Array.from(grid, f => Math.max(1, Math.ceil(f / half / bin)))
  const to = Int32Array.from(grid, f => Math.min(last, Math.floor(f * half / bin)))
  const usable = grid.findLastIndex(f => f < bin * last) + 1

  return {
    read(average: DualChannel, late: Seconds, out: Curve) {
      const { sxx, syy, sxyRe, sxyIm } = average
      const coherence = out.coherence!
      for (let p = 0; p < grid.length; p++) {
        if (p >= usable) { out.re[p] = out.im[p] = coherence[p] = 0; continue }
        let re: number, im: number, gamma: number
        if (to[p]! - from[p]! >= 2) {
          let weight = 0, sr = 0, si = 0, power = 0
          gamma = 0
          for (let k = from[p]!; k <= to[p]!; k++) {
            const xx = sxx[k]!, cr = sxyRe[k]!, ci = sxyIm[k]!
            if (xx <= 0) continue
            weight += xx
            sr += cr
            si += ci
            const cross = cr * cr + ci * ci
            power += cross / xx
            gamma += syy[k]! > 0 ? cross / (xx * syy[k]!) : 0
          }
          const complex = Math.hypot(sr, si)
          const scale = weight > 0 && complex > 0 ? Math.sqrt(power / weight) / complex : 0
          re = sr * scale
          im = si * scale
          gamma /= to[p]! - from[p]! + 1
        }
        else {
          const at = Math.max(1, grid[p]! / bin), k = Math.min(last - 1, Math.floor(at)), t = at - k
          const x0 = sxx[k]!, x1 = sxx[k + 1]!
          if (x0 <= 0 || x1 <= 0) { out.re[p] = out.im[p] = coherence[p] = 0; continue }
          re = (1 - t) * sxyRe[k]! / x0 + t * sxyRe[k + 1]! / x1
          im = (1 - t) * sxyIm[k]! / x0 + t * sxyIm[k + 1]! / x1
          gamma = (1 - t) * binCoherence(average, k) + t * binCoherence(average, k + 1)
        }
        const w = 2 * Math.PI * grid[p]! * late, c = Math.cos(w), s = Math.sin(w)
        out.re[p] = re * c - im * s
        out.im[p] = re * s + im * c
        coherence[p] = Math.min(1, gamma)
      }
    },
  }
}

function binCoherence({ sxx, syy, sxyRe, sxyIm }: DualChannel, k: number): number {
  const d = sxx[k]! * syy[k]!
  return d > 0 ? (sxyRe[k]! ** 2 + sxyIm[k]! ** 2) / d : 0
}

/**
 * Impulse response behind an average, `length` samples, time 0 at index 0 and negative times wrapped to the end.
 * Bins where the reference is 70 dB below its mean are left out rather than blown up.
 */
export function impulseResponse(average: DualChannel): Float64Array {
  const { sxx, sxyRe, sxyIm, options: { length } } = average
  const floor = sxx.reduce((a, b) => a + b, 0) / sxx.length * 1e-7
  const re = sxyRe.map((v, k) => v / (sxx[k]! + floor || 1)), im = sxyIm.map((v, k) => v / (sxx[k]! + floor || 1))
  const out = new Float64Array(length)
  realFft(length).inverse(re, im, out)
  return out
}
