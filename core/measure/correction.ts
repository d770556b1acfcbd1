import { divide, hann, magnitude, onGrid, realFft, unity, type Curve } from '../dsp'
import type { Decibels, Hertz } from '../units'

/** What a tool of the measurement adds to sound that runs through it, ready to be taken out of whatever it hears. */
export interface Correction {
  /** Levels of bands without it: in place, `middles` in Hz. */
  takeFromLevels(levels: Float32Array, middles: readonly Hertz[]): void
  /** A response without it: as long, and no later. */
  takeFromResponse(samples: Float32Array): Float32Array
  /** Sound without it, block after block of `block` samples, half a filter later. */
  stream(block: number): (samples: Float32Array) => Float32Array
}

/** Samples on either side of a response that a correction may reach over: 43 ms at 48 kHz. */
const reach = 2048

/** 1/curve on the bins of a transform of `size` samples; beyond the curve's range its ends go on. */
function inverseOn(curve: Curve, size: number, sampleRate: Hertz): { re: Float64Array, im: Float64Array } {
  const { frequencies } = curve
  const [low, high] = [frequencies[0]!, frequencies[frequencies.length - 1]!]
  const inside = (k: number) => Math.min(high, Math.max(low, (k * sampleRate) / size))
  const given = onGrid(curve, Float64Array.from({ length: size / 2 + 1 }, (_, k) => inside(k)))
  const { re, im } = divide(unity(given.frequencies), given)
  // what is not known is left as it is; the ends of a real transform are real
  for (const k of re.keys()) if (re[k] === 0 && im[k] === 0) re[k] = 1
  for (const k of [0, size / 2]) {
    re[k] = Math.hypot(re[k]!, im[k]!)
    im[k] = 0
  }
  return { re, im }
}

/**
 * Makes a correction of a response (ratios over Hz). Its phase counts as it is given: one of level alone takes out
 * level alone, and moves no arrival.
 */
export function correctionOf(curve: Curve, sampleRate: Hertz): Correction {
  const { frequencies } = curve
  const level = magnitude(curve)
  const levelAt = (f: Hertz): Decibels => {
    const k = frequencies.findIndex(g => g >= f)
    if (k <= 0) return level[k < 0 ? level.length - 1 : 0]!
    const part = Math.log(f / frequencies[k - 1]!) / Math.log(frequencies[k]! / frequencies[k - 1]!)
    return level[k - 1]! + part * (level[k]! - level[k - 1]!)
  }
  const filtered = (samples: ArrayLike<number>, size: number, { re, im }: { re: Float64Array, im: Float64Array }) => {
    const fft = realFft(size)
    const padded = new Float64Array(size)
    padded.set(samples)
    const [sr, si] = [new Float64Array(re.length), new Float64Array(re.length)]
    fft.forward(padded, sr, si)
    for (let k = 0; k < re.length; k++) {
      const r = sr[k]!
      sr[k] = r * re[k]! - si[k]! * im[k]!
      si[k] = r * im[k]! + si[k]! * re[k]!
    }
    fft.inverse(sr, si, padded)
    return padded
  }
  const inverses = new Map<number, ReturnType<typeof inverseOn>>()
  const inverse = (size: number) => {
    const known = inverses.get(size) ?? inverseOn(curve, size, sampleRate)
    inverses.set(size, known)
    return known
  }
  return {
    takeFromLevels(levels, middles) {
      middles.forEach((f, k) => (levels[k]! -= levelAt(f)))
    },
    takeFromResponse(samples) {
      const size = 2 ** Math.ceil(Math.log2(samples.length + reach))
      return Float32Array.from(filtered(samples, size, inverse(size)).subarray(0, samples.length))
    },
    stream(block) {
      const length = 2 * reach
      const { re, im } = inverse(length)
      const taps = new Float64Array(length)
      realFft(length).inverse(re, im, taps)
      // turned so that its middle lies in the middle, and let out at the ends
      const window = hann(length)
      const centred = taps.map((_, n) => taps[(n + reach) % length]! * window[n]!)
      const size = 2 ** Math.ceil(Math.log2(block + length))
      const spectrum = { re: new Float64Array(size / 2 + 1), im: new Float64Array(size / 2 + 1) }
      const padded = new Float64Array(size)
      padded.set(centred)
      realFft(size).forward(padded, spectrum.re, spectrum.im)
      const held = new Float64Array(block + length)
      return (samples) => {
        held.copyWithin(0, block)
        held.set(samples, length)
        return Float32Array.from(filtered(held, size, spectrum).subarray(length, length + block))
      }
    },
  }
}
