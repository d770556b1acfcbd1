/** Periodic Hann window of `size` values, as scipy.signal.get_window('hann', size). */
export const hann = (size: number): Float64Array => cosineSum(size, [0.5, 0.5])

/**
 * Periodic four-term Blackman-Harris window (side lobes -92 dB), as scipy.signal.get_window('blackmanharris',
 * size).
 */
export const blackmanHarris = (size: number): Float64Array => cosineSum(size, [0.35875, 0.48829, 0.14128, 0.01168])

/** No window: right for noise of a period matched to the transform, and for nothing else. */
const rectangular = (size: number): Float64Array => new Float64Array(size).fill(1)

/** Σ ±a cos(2πkn/N), both halves alike: cos kx from cos x (Chebyshev). */
function cosineSum(size: number, terms: readonly number[]): Float64Array {
  const out = new Float64Array(size)
  for (let n = 0; n <= size / 2; n++) {
    const twice = 2 * Math.cos((2 * Math.PI * n) / size)
    let [before, now] = [twice / 2, 1]
    let sum = 0
    for (let k = 0; k < terms.length; k++) {
      sum += (k % 2 ? -1 : 1) * terms[k]! * now
      const next = k ? twice * now - before : twice / 2
      before = now
      now = next
    }
    out[n] = sum
    if (n) out[size - n] = sum
  }
  return out
}

/** Windows on offer, with the words a menu needs. */
export const windows = {
  'hann': { name: 'window.hann', make: hann, lobe: 2 },
  'blackman-harris': { name: 'window.blackmanHarris', make: blackmanHarris, lobe: 4 },
  'rectangular': { name: 'window.rectangular', make: rectangular, lobe: 1 },
} as const
export type WindowId = keyof typeof windows
