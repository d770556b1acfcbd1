import { realFft } from '../dsp'
import type { Hertz } from '../units'
import { refusal } from '../words'

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
  if (!(most > 0)) throw refusal('measure.referenceSilent')
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
