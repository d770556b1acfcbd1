/** Modified Bessel function of the first kind and order 0, by its power series (Abramowitz & Stegun 9.6.12). */
export function besselI0(x: number): number {
  let sum = 1
  let term = 1
  for (let k = 1; term > sum * 1e-17; k++) {
    term *= (x / (2 * k)) ** 2
    sum += term
  }
  return sum
}

/**
 * Reads a signal between its samples: a sinc under a Kaiser window (Kaiser 1974, β = 11: images 110 dB down)
 * over `2 * halfWidth`
 * samples, from a table of `phases` places between two samples with straight lines between them. Flat up to 0.42 of the
 * sample rate. Where the reading rate differs from the signal's this is resampling; for rates within some per
 * cent of each other.
 */
export function createInterpolator(halfWidth = 24, phases = 1024) {
  const width = 2 * halfWidth
  const table = new Float64Array((phases + 1) * width)
  const edge = besselI0(11)
  for (let p = 0; p <= phases; p++) {
    for (let k = 0; k < width; k++) {
      const x = k - halfWidth + 1 - p / phases
      const part = x / halfWidth
      table[p * width + k]
        = Math.abs(part) >= 1
          ? 0
          : ((x === 0 ? 1 : Math.sin(Math.PI * x) / (Math.PI * x)) * besselI0(11 * Math.sqrt(1 - part * part)))
            / edge
    }
  }
  return {
    /** Samples after a position that must be there already. */
    ahead: halfWidth,
    /** Value at `position` (in samples, any fraction) of a ring of `mask + 1` samples, a power of two. */
    read(ring: Float32Array, mask: number, position: number): number {
      const whole = Math.floor(position)
      const place = (position - whole) * phases
      const p = Math.floor(place)
      const mix = place - p
      const a = p * width
      const b = a + width
      const first = whole - halfWidth + 1
      let sum = 0
      for (let k = 0; k < width; k++)
        sum += ring[(first + k) & mask]! * (table[a + k]! + mix * (table[b + k]! - table[a + k]!))
      return sum
    },
  }
}
