import { realFft } from './fft'

/** A windowed transform of real blocks. */
export interface SpectrumFft {
  readonly size: number
  /** Spectrum of input × window, `size / 2 + 1` pairs re, im in one array that is used again at the next call. */
  forward(input: ArrayLike<number>, window: ArrayLike<number>): Float64Array | Float32Array
}

/** Makes the transform for a size: `exactSpectrum`, or the fast one of `fastFft.ts` where 1e-7 is enough. */
export type SpectrumMaker = (size: number) => SpectrumFft

/** Windowed transform in double precision. Throws RangeError unless `size` is a power of two. */
export function exactSpectrum(size: number): SpectrumFft {
  const fft = realFft(size)
  const work = new Float64Array(size)
  const re = new Float64Array(size / 2 + 1)
  const im = new Float64Array(size / 2 + 1)
  const out = new Float64Array(size + 2)
  return {
    size,
    forward(input, window) {
      for (let n = 0; n < size; n++) work[n] = input[n]! * window[n]!
      fft.forward(work, re, im)
      for (let k = 0; k <= size / 2; k++) {
        out[2 * k] = re[k]!
        out[2 * k + 1] = im[k]!
      }
      return out
    },
  }
}
