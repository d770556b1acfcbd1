/**
 * Transforms in single precision by PFFFT compiled to WebAssembly with SIMD (error 2e-7, 0.2 to 0.4 × the time
 * of scipy.fft in
 * double precision: `npm run bench`), for the live path. Not exported from the folder's index: only who awaits
 * it pays for it.
 */
// @ts-expect-error the package brings no types; `Module` below says what is used of it
import PFFFT from '@echogarden/pffft-wasm/simd'
import type { SpectrumFft } from './spectrum'

interface Module {
  HEAPF32: Float32Array
  _pffft_new_setup(size: number, kind: number): number
  _pffft_aligned_malloc(bytes: number): number
  _pffft_aligned_free(at: number): void
  _pffft_transform_ordered(setup: number, input: number, output: number, work: number, direction: number): void
  _pffft_transform(setup: number, input: number, output: number, work: number, direction: number): void
  _pffft_zconvolve_accumulate(setup: number, a: number, b: number, sum: number, scale: number): void
}

/**
 * Spectra that lie in the transform's own memory, in its own order, and are multiplied and added up there: for long
 * convolutions, 16 times as fast as in plain arrays. Whoever takes a place gives it back.
 */
export interface Spectra {
  /** Room for one spectrum: of silence, until another is put there. Throws RangeError when there is no memory left. */
  place(): number
  free(place: number): void
  /** The spectrum of `size` samples. */
  put(block: Float32Array, place: number): void
  clear(): void
  /** Adds the product of two spectra to the sum. */
  add(a: number, b: number): void
  /** The sum's samples; the array is used again at the next call of anything. */
  sum(): Float32Array
}

/** Fast transforms, once the WebAssembly is loaded. */
export interface FastFft {
  spectrum(size: number): SpectrumFft
  /**
   * Real signal to `size / 2 + 1` pairs re, im and back (scaled by 1/N), for blocks worked on in one go. Both
   * arrays are used again at the next call.
   */
  block(size: number): {
    forward(input: ArrayLike<number>): Float32Array
    inverse(spectrum: ArrayLike<number>): Float32Array
  }
  spectra(size: number): Spectra
}

function multiplyInto(x: Float32Array, block: Float32Array, window: Float32Array) {
  for (let n = 0; n < x.length; n++) x[n] = block[n]! * window[n]!
}

function scale(x: Float32Array, by: number) {
  for (let n = 0; n < x.length; n++) x[n]! *= by
}

/**
 * Loads the transform. Sizes must be powers of two from 32 to 2^21; RangeError otherwise. Set-ups are kept for
 * good: few sizes are in use.
 */
export async function loadFastFft(): Promise<FastFft> {
  const load: () => Promise<Module> = PFFFT
  const module = await load()
  const setups = new Map<number, number>()
  let work = 0
  let workSize = 0
  const floats = (size: number) => {
    const at = module._pffft_aligned_malloc(4 * size)
    if (!at) throw new RangeError('No memory is left for transforms.')
    return at
  }
  const prepare = (size: number) => {
    if (!(size >= 32 && size <= 2 ** 21) || (size & (size - 1)) !== 0)
      throw new RangeError(`The fast transform takes powers of two from 32 to 2^21, not ${size}`)
    if (size > workSize) {
      work = floats(size)
      workSize = size
    }
    let setup = setups.get(size)
    if (setup === undefined) setups.set(size, (setup = module._pffft_new_setup(size, 0)))
    return setup
  }
  /** The first and last bin are real and share the first pair: moves the last to its own place. */
  const spread = (out: Float32Array, size: number) => {
    out[size] = out[1]!
    out[1] = out[size + 1] = 0
    return out
  }
  /** A view of the heap, made anew when the heap has grown. */
  const viewOf = (at: number, length: number) => {
    let view = module.HEAPF32.subarray(at >> 2, (at >> 2) + length)
    return () =>
      view.buffer === module.HEAPF32.buffer ? view : (view = module.HEAPF32.subarray(at >> 2, (at >> 2) + length))
  }
  /** Buffers in the heap, one pair a size: they are never given back. */
  const heap = new Map<number, { at: number, to: number, time: () => Float32Array, bins: () => Float32Array }>()
  const buffers = (size: number) => {
    let found = heap.get(size)
    if (!found) {
      const at = floats(size)
      const to = floats(size + 4)
      heap.set(size, (found = { at, to, time: viewOf(at, size), bins: viewOf(to, size + 2) }))
    }
    return found
  }
  const silence = (at: number, size: number) => module.HEAPF32.fill(0, at >> 2, (at >> 2) + size)
  const sums = new Map<number, number>()
  return {
    spectra(size) {
      const setup = prepare(size)
      const { at, time } = buffers(size)
      const total = sums.get(size) ?? floats(size)
      sums.set(size, total)
      return {
        place() {
          const place = floats(size)
          silence(place, size)
          return place
        },
        free: place => module._pffft_aligned_free(place),
        put(block, place) {
          time().set(block)
          module._pffft_transform(setup, at, place, work, 0)
        },
        clear: () => void silence(total, size),
        add: (a, b) => module._pffft_zconvolve_accumulate(setup, a, b, total, 1 / size),
        sum() {
          module._pffft_transform(setup, total, at, work, 1)
          return time()
        },
      }
    },
    spectrum(size) {
      const setup = prepare(size)
      const { at, to, time, bins } = buffers(size)
      const out = new Float32Array(size + 2)
      let shape: ArrayLike<number> | null = null
      let single = new Float32Array(0)
      return {
        size,
        forward(block, window) {
          if (shape !== window) {
            shape = window
            single = new Float32Array(window)
          } // one kind of number in the loop: five times faster
          const x = time()
          if (block instanceof Float32Array) multiplyInto(x, block, single)
          else for (let n = 0; n < size; n++) x[n] = block[n]! * window[n]!
          module._pffft_transform_ordered(setup, at, to, work, 0)
          out.set(bins())
          return spread(out, size)
        },
      }
    },
    block(size) {
      const setup = prepare(size)
      const { at, to, time, bins } = buffers(size)
      return {
        forward(block) {
          const x = time()
          if (block instanceof Float32Array && block.length === size) x.set(block)
          else for (let n = 0; n < size; n++) x[n] = block[n]!
          module._pffft_transform_ordered(setup, at, to, work, 0)
          return spread(bins(), size)
        },
        inverse(spectrum) {
          const s = bins()
          const last = spectrum[size]!
          if (spectrum instanceof Float32Array) {
            if (spectrum.buffer !== s.buffer || spectrum.byteOffset !== s.byteOffset) s.set(spectrum)
          }
          else for (let k = 0; k < size; k++) s[k] = spectrum[k]!
          s[1] = last
          module._pffft_transform_ordered(setup, to, at, work, 1)
          const x = time()
          scale(x, 1 / size)
          return x
        },
      }
    },
  }
}
