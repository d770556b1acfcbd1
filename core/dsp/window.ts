/** Periodic Hann window of `size` values, as scipy.signal.get_window('hann', size). */
export const hann = (size: number): Float64Array =>
  Float64Array.from({ length: size }, (_, n) => 0.5 - 0.5 * Math.cos(2 * Math.PI * n / size))
