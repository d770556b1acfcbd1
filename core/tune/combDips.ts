import type { Hertz, Seconds } from '../units'

/** A comb found in a level: the second sound's delay, and where it dips. */
export interface LevelComb {
  delay: Seconds
  dips: Hertz[]
}

/** Strengths of a second sound that are tried: the shape of a comb depends little on it. */
const strengths = [0.4, 0.7, 0.9]
/** Part of what a slow course leaves over that a comb must explain. */
const explained = 0.65
/** dB that a dip must lie under the slow course to count as one of the comb's, how near, and how many must. */
const under = 1.5
const near = 1 / 12
const dipsNeeded = 3
/** A comb is looked for from half an octave under its first dip to this many times it. */
const reach = 7

/** Dips of two sounds `delay` apart in a range: at odd multiples of 1/(2τ), or of 1/τ where the second is turned. */
function dipsOf(delay: Seconds, isTurned: boolean, low: Hertz, high: Hertz): Hertz[] {
  const found: Hertz[] = []
  for (let n = isTurned ? 1 : 0.5; n / delay <= high; n++) if (n / delay >= low) found.push(n / delay)
  return found
}

/** Takes offset, slope and bend over an even axis out of values, in place. */
function withoutCourse(values: Float64Array): Float64Array {
  const n = values.length
  const axes = [
    Float64Array.from({ length: n }, () => 1),
    Float64Array.from({ length: n }, (_, k) => (2 * k) / (n - 1) - 1),
    Float64Array.from({ length: n }, (_, k) => ((2 * k) / (n - 1) - 1) ** 2),
  ]
  const dot = (a: Float64Array, b: Float64Array) => a.reduce((s, v, k) => s + v * b[k]!, 0)
  // Gram and Schmidt
  axes.forEach((axis, i) => {
    for (const other of axes.slice(0, i)) {
      const part = dot(axis, other)
      for (let k = 0; k < n; k++) axis[k]! -= part * other[k]!
    }
    const size = Math.sqrt(dot(axis, axis))
    for (let k = 0; k < n; k++) axis[k]! /= size
  })
  for (const axis of axes) {
    const part = dot(values, axis)
    for (let k = 0; k < n; k++) values[k]! -= part * axis[k]!
  }
  return values
}

/** How well a comb explains a level: the squared correlation with its shape, 0 where it stands upside down. */
function fits(level: Float64Array, shape: Float64Array): number {
  let [both, one, other] = [0, 0, 0]
  for (let k = 0; k < level.length; k++) {
    both += level[k]! * shape[k]!
    one += level[k]! ** 2
    other += shape[k]! ** 2
  }
  return both > 0 && one > 0 ? both ** 2 / (one * other) : 0
}

/**
 * A comb in a level alone (dB on an even logarithmic grid, Hz), where nothing else is known of it: dips equally spaced
 * in Hz, so that the first are the widest in octaves, three or more of them there, and a level that runs as that of two
 * sounds does, |1 + r·e^(-iωτ)|, besides a slow course. Null where none explains enough of it.
 */
export function combInLevel(frequencies: Float64Array, level: Float64Array): LevelComb | null {
  const m = frequencies.length
  const [low, high] = [frequencies[0]!, frequencies[m - 1]!]
  const perOctave = (m - 1) / Math.log2(high / low)
  const at = (f: Hertz) => Math.max(0, Math.min(m - 1, Math.round(perOctave * Math.log2(f / low))))
  let best: (LevelComb & { fit: number }) | null = null
  for (const isTurned of [false, true]) {
    for (let first = low; first * (isTurned ? 3 : 5) <= high; first *= 2 ** (1 / 48)) {
      const delay = (isTurned ? 1 : 0.5) / first
      const [from, to] = [at(first / Math.SQRT2), at(reach * first) + 1]
      const left = withoutCourse(level.slice(from, to))
      const dips = dipsOf(delay, isTurned, low, reach * first).filter((f) => {
        const [a, b] = [at(f * 2 ** -near) - from, at(f * 2 ** near) - from + 1]
        return Math.min(...left.subarray(Math.max(0, a), b)) < -under
      })
      const expected = dipsOf(delay, isTurned, low, Math.min(high, (isTurned ? 3 : 5) * first * 1.01))
      if (dips.length < dipsNeeded || !expected.every(f => dips.includes(f))) continue
      for (const r of strengths) {
        const shape = frequencies.slice(from, to).map(f =>
          10 * Math.log10(1 + r * r + 2 * (isTurned ? -r : r) * Math.cos(2 * Math.PI * f * delay)))
        const fit = fits(left, withoutCourse(shape))
        if (fit > Math.max(explained, best?.fit ?? 0)) best = { delay, dips: dipsOf(delay, isTurned, low, high), fit }
      }
    }
  }
  return best && { delay: best.delay, dips: best.dips }
}
