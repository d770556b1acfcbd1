import { exactSpectrum, hann, realFft, type SpectrumFft, type SpectrumMaker } from '../dsp'
import type { Hertz, Seconds } from '../units'

/**
 * How blocks are averaged: forgetting with a time constant, the plain mean of the last `count` blocks, or of
 * all since the restart.
 */
export type Averaging = { kind: 'exponential', time: Seconds } | { kind: 'blocks', count: number } | { kind: 'all' }

export interface DualChannelOptions {
  sampleRate: Hertz
  /** Samples in a block, a power of two. */
  length: number
  /** Samples from one block's start to the next; sets the weight of a block in exponential averaging. */
  hop: number
  averaging: Averaging
  /** The transform; exact unless another is given. */
  spectrum?: SpectrumMaker | undefined
  /** First and last bin that are averaged; all unless given. The others stay 0. */
  bins?: readonly [first: number, last: number]
  window?: Float64Array
  /** Leaves blocks out that the average explains far worse than the ones before: a cough, a door, a tram. */
  dropPoor?: boolean | undefined
}

type Spectrum = Float64Array | Float32Array

/** The average takes one block with weight `w`: the hottest loop of the live path. */
function addForgetting(
  x: Spectrum,
  y: Spectrum,
  sxx: Float64Array,
  syy: Float64Array,
  sxyRe: Float64Array,
  sxyIm: Float64Array,
  first: number,
  last: number,
  w: number,
) {
  for (let k = first; k <= last; k++) {
    const xr = x[2 * k]!
    const xi = x[2 * k + 1]!
    const yr = y[2 * k]!
    const yi = y[2 * k + 1]!
    sxx[k]! += w * (xr * xr + xi * xi - sxx[k]!)
    syy[k]! += w * (yr * yr + yi * yi - syy[k]!)
    sxyRe[k]! += w * (xr * yr + xi * yi - sxyRe[k]!)
    sxyIm[k]! += w * (xr * yi - xi * yr - sxyIm[k]!)
  }
}

/**
 * Blocks before any is judged; how much worse than them a poor one is; and poor ones in a row after which the
 * system must have changed instead.
 */
const enough = 6
const poorer = 2.5
const patience = 8

/** Averaged spectra of one block length: a dual-channel analyser's state. */
export interface DualChannel {
  readonly options: DualChannelOptions
  /** Blocks behind the current average (for exponential averaging the effective count). */
  readonly blocks: number
  /**
   * Adds one block of reference and microphone, `length` samples each; `late` is a delay in samples that the
   * microphone has more
   * than the blocks before, and is taken out. False when the block was poor and left out.
   */
  push(reference: ArrayLike<number>, microphone: ArrayLike<number>, late?: number): boolean
  /** The same with the reference's windowed spectrum, `length / 2 + 1` pairs re, im, instead of its block. */
  pushSpectrum(reference: Float64Array | Float32Array, microphone: ArrayLike<number>, late?: number): boolean
  restart(): void
  /**
   * Takes the average as if the microphone had been read `samples` later all along: its phase is turned,
   * nothing is forgotten.
   */
  delayBy(samples: number): void
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
  if (
    averaging.kind === 'blocks'
      ? !(averaging.count >= 1)
      : averaging.kind === 'exponential' && !(averaging.time > 0)
  )
    throw new RangeError('Averaging needs a time above 0 or at least one block')
  const make = options.spectrum ?? exactSpectrum
  const fftY = make(length)
  const window = options.window ?? hann(length)
  const bins = length / 2 + 1
  const [first, last] = options.bins ?? [0, bins - 1]
  const sums = [0, 1, 2, 3].map(() => new Float64Array(bins)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ]
  const [sxx, syy, sxyRe, sxyIm] = sums
  const kept
    = averaging.kind === 'blocks'
      ? Array.from({ length: averaging.count }, () => sums.map(() => new Float64Array(last - first + 1)))
      : []
  const forget
    = averaging.kind === 'exponential' ? 1 - Math.exp(-options.hop / (options.sampleRate * averaging.time)) : 0
  let pushed = 0
  let fftX: SpectrumFft | null = null

  /** Turns a block's spectrum forward by so many samples. */
  const turnBlock = (y: Float64Array | Float32Array, samples: number) => {
    const step = (2 * Math.PI * samples) / length
    const dc = Math.cos(step)
    const ds = Math.sin(step)
    let c = Math.cos(step * first)
    let s = Math.sin(step * first)
    for (let k = first; k <= last; k++) {
      const r = y[2 * k]!
      const i = y[2 * k + 1]!
      const next = c * dc - s * ds
      y[2 * k] = r * c - i * s
      y[2 * k + 1] = r * s + i * c
      s = s * dc + c * ds
      c = next
    }
  }

  /** How many blocks in a row were left out as poor. */
  let refused = 0
  /**
   * True when the average leaves much more of this block unexplained than of those behind it: |Y - HX|² over
   * the microphone's power, mean over the bins.
   */
  const isPoor = (x: ArrayLike<number>, y: ArrayLike<number>) => {
    if (pushed < enough || refused >= patience) return false
    let here = 0
    let usual = 0
    let count = 0
    for (let k = Math.max(1, first); k <= last; k++) {
      const xx = sxx[k]!
      const yy = syy[k]!
      if (xx <= 0 || yy <= 0) continue
      const hr = sxyRe[k]! / xx
      const hi = sxyIm[k]! / xx
      const xr = x[2 * k]!
      const xi = x[2 * k + 1]!
      here += Math.min(20, ((y[2 * k]! - hr * xr + hi * xi) ** 2 + (y[2 * k + 1]! - hr * xi - hi * xr) ** 2) / yy)
      usual += 1 - ((hr * hr + hi * hi) * xx) / yy
      count++
    }
    return here > poorer * usual + 0.02 * count
  }

  const addRunning = (x: ArrayLike<number>, y: ArrayLike<number>) => {
    const [bxx, byy, bre, bim] = kept[(pushed - 1) % kept.length]! as [
      Float64Array,
      Float64Array,
      Float64Array,
      Float64Array,
    ]
    for (let k = first; k <= last; k++) {
      const xr = x[2 * k]!
      const xi = x[2 * k + 1]!
      const yr = y[2 * k]!
      const yi = y[2 * k + 1]!
      const at = k - first
      bxx[at] = xr * xr + xi * xi
      byy[at] = yr * yr + yi * yi
      bre[at] = xr * yr + xi * yi
      bim[at] = xr * yi - xi * yr
    }
    // summed anew each time: subtracting the oldest would leave rounding dust behind
    const count = Math.min(pushed, kept.length)
    for (let s = 0; s < 4; s++) {
      const sum = sums[s]!.fill(0)
      for (let b = 0; b < count; b++) {
        const block = kept[b]![s]!
        for (let k = first; k <= last; k++) sum[k]! += block[k - first]! / count
      }
    }
  }

  return {
    options,
    sxx,
    syy,
    sxyRe,
    sxyIm,
    get blocks() {
      if (averaging.kind === 'all') return pushed
      return Math.min(pushed, averaging.kind === 'blocks' ? averaging.count : Math.round(2 / forget - 1))
    },
    push(reference, microphone, late) {
      return this.pushSpectrum((fftX ??= make(length)).forward(reference, window), microphone, late)
    },
    pushSpectrum(x, microphone, late = 0) {
      const y = fftY.forward(microphone, window)
      if (late !== 0) turnBlock(y, late)
      if (options.dropPoor && isPoor(x, y)) {
        refused++
        return false
      }
      refused = 0
      pushed++
      if (averaging.kind === 'blocks') addRunning(x, y)
      else addForgetting(x, y, sxx, syy, sxyRe, sxyIm, first, last, Math.max(forget, 1 / pushed))
      return true
    },
    delayBy(samples) {
      const turn = (re: Float64Array, im: Float64Array, from: number) => {
        for (let n = 0; n < re.length; n++) {
          const w = (2 * Math.PI * (n + from) * samples) / length
          const c = Math.cos(w)
          const s = Math.sin(w)
          const r = re[n]!
          const i = im[n]!
          re[n] = r * c - i * s
          im[n] = r * s + i * c
        }
      }
      turn(sxyRe, sxyIm, 0)
      for (const block of kept) turn(block[2]!, block[3]!, first)
    },
    restart() {
      pushed = refused = 0
      for (const sum of sums) sum.fill(0)
    },
  }
}

/**
 * Impulse response behind an average, `length` samples, time 0 at index 0 and negative times wrapped to the end.
 * Bins where the reference is 70 dB below its mean are left out rather than blown up.
 */
export function impulseResponse(average: DualChannel): Float64Array {
  const {
    sxx,
    sxyRe,
    sxyIm,
    options: { length },
  } = average
  const floor = (sxx.reduce((a, b) => a + b, 0) / sxx.length) * 1e-7
  const re = sxyRe.map((v, k) => v / (sxx[k]! + floor || 1))
  const im = sxyIm.map((v, k) => v / (sxx[k]! + floor || 1))
  const out = new Float64Array(length)
  realFft(length).inverse(re, im, out)
  return out
}
