import type { Hertz } from '../units'
import { filterInPlace, type Section } from './biquad'
import { refusal } from '../words'

/**
 * Butterworth band-pass of `order` (its analogue prototype's; twice that in all) between two -3 dB edges,
 * bilinear with prewarped
 * edges, as scipy.signal.butter(order, [low, high], 'bandpass'). Throws RangeError unless 0 < low < high < half
 * the sample rate.
 */
export function bandPass(order: number, low: Hertz, high: Hertz, sampleRate: Hertz): Section[] {
  if (!(low > 0 && high > low && high < sampleRate / 2))
    throw refusal('filter.bandNotPossible', { low, high, sampleRate })
  const warp = (f: Hertz) => Math.tan((Math.PI * f) / sampleRate)
  const w1 = warp(low)
  const w2 = warp(high)
  const width = w2 - w1
  const middle = Math.sqrt(w1 * w2)
  const sections: Section[] = []
  /**
   * Digital section of two analogue poles (a conjugate pair, or two real ones) given by s² + a s + b; a zero at
   * 0 and one at infinity.
   */
  const push = (a: number, b: number) => {
    const d = 1 + a + b
    sections.push([width / d, 0, -width / d, (2 * (b - 1)) / d, (1 - a + b) / d])
  }
  for (let k = 0; k < Math.ceil(order / 2); k++) {
    const angle = (Math.PI * (2 * k + 1 + order)) / (2 * order)
    const pr = Math.cos(angle)
    const pi = Math.sin(angle)
    if (order % 2 && k === (order - 1) / 2) {
      push(width, middle * middle)
      continue
    }
    // s = (p·width ± √((p·width)² - 4·middle²)) / 2 for the complex prototype pole p; its conjugate gives the
    // conjugates
    const hr = (pr * width) / 2
    const hi = (pi * width) / 2
    const dr = hr * hr - hi * hi - middle * middle
    const di = 2 * hr * hi
    const size = Math.hypot(dr, di)
    const rr = Math.sqrt((size + dr) / 2)
    const ri = Math.sign(di || 1) * Math.sqrt((size - dr) / 2)
    for (const sign of [1, -1]) {
      const sr = hr + sign * rr
      const si = hi + sign * ri
      push(-2 * sr, sr * sr + si * si)
    }
  }
  return sections
}

/** A filtered copy of `input`, from rest, as scipy.signal.sosfilt. */
export function filterThrough(sections: readonly Section[], input: ArrayLike<number>): Float64Array {
  const out = new Float64Array(input)
  filterInPlace(out, sections)
  return out
}
