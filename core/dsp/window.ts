/** Periodic Hann window of `size` values, as scipy.signal.get_window('hann', size). */
export const hann = (size: number): Float64Array => cosineSum(size, [0.5, 0.5])

/**
 * Periodic four-term Blackman-Harris window (side lobes -92 dB), as scipy.signal.get_window('blackmanharris',
 * size).
 */
export const blackmanHarris = (size: number): Float64Array => cosineSum(size, [0.35875, 0.48829, 0.14128, 0.01168])

/** No window: right for noise of a period matched to the transform, and for nothing else. */
export const rectangular = (size: number): Float64Array => new Float64Array(size).fill(1)

const cosineSum = (size: number, terms: readonly number[]): Float64Array =>
  Float64Array.from({ length: size }, (_, n) =>
    terms.reduce((sum, a, k) => sum + (k % 2 ? -a : a) * Math.cos((2 * Math.PI * k * n) / size), 0),
  )

/** Windows on offer, with the words a menu needs. */
export const windows = {
  'hann': { name: 'Hann', make: hann, lobe: 2 },
  'blackman-harris': { name: 'Blackman-Harris', make: blackmanHarris, lobe: 4 },
  'rectangular': { name: 'None (matched noise only)', make: rectangular, lobe: 1 },
} as const
export type WindowId = keyof typeof windows
