import { realFft } from '../../core/dsp'

/** Samples a block. */
export const blockSize = 1024

interface Kernel {
  parts: { re: Float32Array, im: Float32Array }[]
}

/**
 * Streaming convolution with a long response: uniformly partitioned overlap-save (Stockham 1966; Gardner 1995).
 * A new response
 * takes over by a cross-fade over one block, so that a change never clicks.
 */
export function createConvolver(longest: number) {
  const size = 2 * blockSize
  const bins = blockSize + 1
  const most = Math.ceil(longest / blockSize)
  const fft = realFft(size)
  const history = Array.from({ length: most }, () => ({ re: new Float32Array(bins), im: new Float32Array(bins) }))
  const spectrumRe = new Float64Array(bins)
  const spectrumIm = new Float64Array(bins)
  const input = new Float64Array(size)
  const work = new Float64Array(size)
  const old = new Float64Array(size)
  const sumRe = new Float64Array(bins)
  const sumIm = new Float64Array(bins)
  let newest = 0
  let kernel: Kernel = { parts: [] }
  let next: Kernel | null = null

  const partition = (response: ArrayLike<number>): Kernel => {
    let peak = 0
    for (let n = 0; n < response.length; n++) peak = Math.max(peak, Math.abs(response[n]!))
    let end = response.length
    while (end > 0 && Math.abs(response[end - 1]!) < peak * 1e-5) end--
    return {
      parts: Array.from({ length: Math.min(most, Math.ceil(end / blockSize)) }, (_, p) => {
        work.fill(0)
        for (let n = 0; n < blockSize && p * blockSize + n < end; n++) work[n] = response[p * blockSize + n]!
        fft.forward(work, spectrumRe, spectrumIm)
        return { re: Float32Array.from(spectrumRe), im: Float32Array.from(spectrumIm) }
      }),
    }
  }

  const convolve = ({ parts }: Kernel, out: Float64Array) => {
    sumRe.fill(0)
    sumIm.fill(0)
    for (let p = 0; p < parts.length; p++) {
      const { re: hr, im: hi } = parts[p]!
      const { re: xr, im: xi } = history[(newest - p + most) % most]!
      for (let k = 0; k < bins; k++) {
        sumRe[k]! += xr[k]! * hr[k]! - xi[k]! * hi[k]!
        sumIm[k]! += xr[k]! * hi[k]! + xi[k]! * hr[k]!
      }
    }
    fft.inverse(sumRe, sumIm, out)
  }

  return {
    /** Takes over from the next block on. */
    respond(response: ArrayLike<number>) {
      next = partition(response)
    },
    /** One block in, one block out (both `blockSize` samples). */
    process(block: Float32Array, out: Float32Array) {
      input.copyWithin(0, blockSize)
      input.set(block, blockSize)
      newest = (newest + 1) % most
      fft.forward(input, spectrumRe, spectrumIm)
      history[newest]!.re.set(spectrumRe)
      history[newest]!.im.set(spectrumIm)
      convolve(kernel, work)
      if (next) {
        old.set(work)
        kernel = next
        next = null
        convolve(kernel, work)
        for (let n = 0; n < blockSize; n++) {
          const t = (n + 0.5) / blockSize
          out[n] = old[blockSize + n]! * (1 - t) + work[blockSize + n]! * t
        }
      }
      else for (let n = 0; n < blockSize; n++) out[n] = work[blockSize + n]!
    },
  }
}
