import type { FastFft, Spectra } from '../../core/dsp/fastFft'

/** Samples a block. */
export const blockSize = 1024
const size = 2 * blockSize

/** Places of convolvers that nobody has any more are given back. */
const left = new FinalizationRegistry<{ spectra: Spectra, places: number[] }>(({ spectra, places }) => {
  for (const place of places) spectra.free(place)
})

/**
 * Streaming convolution with a response of up to `longest` samples: uniformly partitioned overlap-save (Stockham 1966;
 * Gardner 1995), in single precision. A new response takes over by a cross-fade over one block, so that a change never
 * clicks.
 */
export function createConvolver(longest: number, fast: FastFft) {
  const most = Math.ceil(longest / blockSize)
  const spectra = fast.spectra(size)
  const places: number[] = []
  const take = () => {
    places.push(spectra.place())
    return places.at(-1)!
  }
  const history = Array.from({ length: most }, take)
  const input = new Float32Array(size)
  const work = new Float32Array(size)
  const old = new Float32Array(blockSize)
  const spare: number[] = []
  let newest = 0
  let kernel: number[] = []
  let next: number[] | null = null

  const partition = (response: ArrayLike<number>): number[] => {
    let peak = 0
    for (let n = 0; n < response.length; n++) peak = Math.max(peak, Math.abs(response[n]!))
    let end = response.length
    while (end > 0 && Math.abs(response[end - 1]!) < peak * 1e-5) end--
    return Array.from({ length: Math.min(most, Math.ceil(end / blockSize)) }, (_, p) => {
      work.fill(0)
      for (let n = 0; n < blockSize && p * blockSize + n < end; n++) work[n] = response[p * blockSize + n]!
      const place = spare.pop() ?? take()
      spectra.put(work, place)
      return place
    })
  }

  const convolve = (): Float32Array => {
    spectra.clear()
    for (let p = 0; p < kernel.length; p++) spectra.add(history[(newest - p + most) % most]!, kernel[p]!)
    return spectra.sum()
  }

  const convolver = {
    /** Takes over from the next block on. */
    respond(response: ArrayLike<number>) {
      if (next) spare.push(...next)
      next = partition(response)
    },
    /** One block in, one block out (both `blockSize` samples). */
    process(block: Float32Array, out: Float32Array) {
      input.copyWithin(0, blockSize)
      input.set(block, blockSize)
      newest = (newest + 1) % most
      spectra.put(input, history[newest]!)
      let heard = convolve()
      if (next) {
        for (let n = 0; n < blockSize; n++) old[n] = heard[blockSize + n]!
        spare.push(...kernel)
        kernel = next
        next = null
        heard = convolve()
        for (let n = 0; n < blockSize; n++) {
          const t = (n + 0.5) / blockSize
          out[n] = old[n]! * (1 - t) + heard[blockSize + n]! * t
        }
      }
      else for (let n = 0; n < blockSize; n++) out[n] = heard[blockSize + n]!
    },
  }
  left.register(convolver, { spectra, places })
  return convolver
}
