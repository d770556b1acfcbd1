import { realFft, type SweepPlan } from '../dsp'
import type { Decibels, Hertz, Seconds } from '../units'
import { bandLevels, fractionalOctaves, type FrequencyBand } from './bands'
import { powerSpectrum } from './level'

/** A harmonic's level over the fundamental in dB, by the frequency that excited it. */
export interface Harmonic {
  order: number
  frequencies: Float64Array
  level: Float64Array
}

export interface SweepResult {
  sampleRate: Hertz
  /** Response of microphone over reference; sample 0 is at time `start` (negative: before the reference). */
  impulse: Float32Array
  start: Seconds
  /** Time of the largest swing. */
  arrival: Seconds
  /** Octaves: the response over the noise before it. */
  signalToNoise: { band: string, middle: Hertz, level: Decibels }[]
  harmonics: Harmonic[]
}

/** Forward transform of a block and back; given by who has a faster one. */
export interface BlockTransform {
  forward(input: ArrayLike<number>): Float64Array | Float32Array
  inverse(spectrum: ArrayLike<number>): Float64Array | Float32Array
}
export type BlockMaker = (size: number) => BlockTransform

/** Double-precision `BlockMaker`. */
export const exactBlock: BlockMaker = (size) => {
  const fft = realFft(size)
  const re = new Float64Array(size / 2 + 1)
  const im = new Float64Array(size / 2 + 1)
  const pairs = new Float64Array(size + 2)
  const out = new Float64Array(size)
  return {
    forward(input) {
      fft.forward(input, re, im)
      for (let k = 0; k <= size / 2; k++) {
        pairs[2 * k] = re[k]!
        pairs[2 * k + 1] = im[k]!
      }
      return pairs
    },
    inverse(spectrum) {
      for (let k = 0; k <= size / 2; k++) {
        re[k] = spectrum[2 * k]!
        im[k] = spectrum[2 * k + 1]!
      }
      fft.inverse(re, im, out)
      return out
    },
  }
}

/**
 * Divides a microphone's recording by its reference: Y·X* / (|X|² + ε) with ε 60 dB under the reference's
 * strongest bin outside the
 * sweep's range. Gives the circular response of the next power of two of both lengths. Throws RangeError for a
 * silent reference.
 */
export function deconvolve(
  reference: ArrayLike<number>,
  microphone: ArrayLike<number>,
  range: { low: Hertz, high: Hertz },
  sampleRate: Hertz,
  make: BlockMaker = exactBlock,
): Float64Array {
  const size = 2 ** Math.ceil(Math.log2(2 * Math.max(reference.length, microphone.length, 16)))
  const fft = make(size)
  const padded = new Float32Array(size)
  const load = (x: ArrayLike<number>) => {
    padded.fill(0)
    padded.set(x)
    return padded
  }
  // `new` and `set` copy as a block, `from` one by one: ten times as long for a million
  const x = new Float64Array(fft.forward(load(reference)))
  const y = fft.forward(load(microphone))
  const most = largest(x, size)
  if (!(most > 0)) throw new RangeError('The reference is silent: there is nothing to compare the microphone with.')
  divideBy(x, y, size, most, (range.low * size) / sampleRate, (range.high * size) / sampleRate)
  return new Float64Array(fft.inverse(y))
}

function largest(x: Float64Array, size: number): number {
  let most = 0
  for (let k = 0; k <= size; k += 2) {
    const power = x[k]! * x[k]! + x[k + 1]! * x[k + 1]!
    if (power > most) most = power
  }
  return most
}

/**
 * y ← y / x, bin by bin; what the reference does not hold is left out, softly: fully an octave under bin `low`
 * and a twelfth of one over bin `high`.
 */
function divideBy(
  x: Float64Array,
  y: Float64Array | Float32Array,
  size: number,
  most: number,
  low: number,
  high: number,
) {
  for (let k = 0; k <= size / 2; k++) {
    const below = k < low ? Math.min(1, Math.log2(low / Math.max(k, 1))) : 0
    const above = k > 1.06 * high ? 1 : Math.max(0, Math.log2(k / high) * 12)
    const outside = below + above
    const xr = x[2 * k]!
    const xi = x[2 * k + 1]!
    const yr = y[2 * k]!
    const yi = y[2 * k + 1]!
    const d = xr * xr + xi * xi + most * (1e-9 + 1e-3 * outside)
    y[2 * k] = (yr * xr + yi * xi) / d
    y[2 * k + 1] = (yi * xr - yr * xi) / d
  }
}

/**
 * Analyses a sweep's recording. `longest` limits the response kept after its arrival; harmonics 2 to 5 lie T·ln
 * k / ln(f2/f1)
 * before it (Farina 2000). Throws RangeError as `deconvolve`.
 */
export function analyseSweep(
  reference: ArrayLike<number>,
  microphone: ArrayLike<number>,
  plan: SweepPlan,
  sampleRate: Hertz,
  longest: Seconds = 3,
  make?: BlockMaker,
): SweepResult {
  const circular = deconvolve(reference, microphone, plan, sampleRate, make)
  const size = circular.length
  const at = (n: number) => circular[((n % size) + size) % size]!
  let peak = 0
  for (let n = 1; n < size; n++) {
    const v = n < size / 2 ? n : n - size
    if (Math.abs(circular[n]!) > Math.abs(at(peak))) peak = v
  }
  const apart = (order: number) => ((plan.seconds * Math.log(order)) / Math.log(plan.high / plan.low)) * sampleRate
  const early = Math.round(Math.min(0.05 * sampleRate, apart(2) / 4))
  const length = Math.min(Math.round(longest * sampleRate), size / 2)
  const impulse = Float32Array.from({ length: early + length }, (_, n) => at(peak - early + n))
  const cut = (from: number, count: number) => Float32Array.from({ length: count }, (_, n) => at(from + n))
  return {
    sampleRate,
    impulse,
    start: (peak - early) / sampleRate,
    arrival: peak / sampleRate,
    signalToNoise: bandNoise(
      cut(peak - Math.round(0.002 * sampleRate), Math.round(0.25 * sampleRate)),
      cut(
        peak + Math.max(length, Math.round((0.6 * size) / 2)) - Math.round(0.25 * sampleRate),
        Math.round(0.25 * sampleRate),
      ),
      plan,
      sampleRate,
    ),
    harmonics: harmonicsOf(cut, peak, apart, plan, sampleRate),
  }
}

function bandNoise(signal: Float32Array, noise: Float32Array, plan: SweepPlan, sampleRate: Hertz) {
  const bands = fractionalOctaves(1, Math.max(31.5, plan.low), Math.min(16_000, plan.high))
  const length = 2 ** Math.floor(Math.log2(signal.length))
  const level = (x: Float32Array) => bandLevels(powerSpectrum(x, length), sampleRate, bands)
  const a = level(signal)
  const b = level(noise)
  return bands.map((band: FrequencyBand, k) => ({ band: band.name, middle: band.middle, level: a[k]! - b[k]! }))
}

function harmonicsOf(
  cut: (from: number, count: number) => Float32Array,
  peak: number,
  apart: (order: number) => number,
  plan: SweepPlan,
  sampleRate: Hertz,
): Harmonic[] {
  const size = 2 ** Math.ceil(Math.log2(Math.max(2048, apart(6) - apart(5))))
  const fft = exactBlock(size)
  /** Response around one order, faded at its ends, as magnitude a bin. */
  const magnitude = (order: number) => {
    const before = Math.round((apart(order + 1) - apart(order)) * 0.4)
    const after = Math.round((order === 1 ? apart(2) : apart(order) - apart(order - 1)) * 0.4)
    const block = new Float32Array(size)
    const part = cut(peak - Math.round(apart(order)) - Math.min(before, size / 2), Math.min(size, before + after))
    part.forEach((v, n) => {
      block[n] = v * Math.min(1, (n + 1) / (before * 0.2), (part.length - n) / (after * 0.2))
    })
    const s = fft.forward(block)
    return Float64Array.from({ length: size / 2 + 1 }, (_, k) => Math.hypot(s[2 * k]!, s[2 * k + 1]!))
  }
  const linear = magnitude(1)
  const bin = sampleRate / size
  /** Mean over a sixth of an octave: one noisy bin says nothing of distortion. */
  const around = (values: Float64Array, f: Hertz) => {
    let sum = 0
    let count = 0
    for (
      let k = Math.max(1, Math.floor(f / 1.06 / bin));
      k <= Math.min(values.length - 1, Math.ceil((f * 1.06) / bin));
      k++, count++
    )
      sum += values[k]! ** 2
    return count ? Math.sqrt(sum / count) : 0
  }
  return [2, 3, 4, 5].map((order) => {
    const harmonic = magnitude(order)
    const frequencies = fractionalOctaves(
      6,
      Math.max(20, plan.low),
      Math.min(plan.high, sampleRate / 2) / order / 1.1,
    ).map(b => b.middle)
    return {
      order,
      frequencies: Float64Array.from(frequencies),
      level: Float64Array.from(
        frequencies,
        f => 20 * Math.log10(Math.max(1e-9, around(harmonic, f * order)) / Math.max(1e-9, around(linear, f))),
      ),
    }
  })
}
