import type { Decibels, Hertz } from '../units'
import { refusal } from '../words'

/**
 * What a peaking filter's width in octaves means. Between the two frequencies of the digital filter at which it has
 * - `half-gain`: half its gain in dB;
 * - `three-db`: 3.01 dB less than its gain (so a filter of 3.01 dB or less has none);
 * - `resonance`: 3.01 dB less than its poles' resonance alone (a boost; a cut is its mirror): the same at every gain.
 * `…-analogue`: of the analogue filter behind it, whose band is not squeezed towards half the sample rate.
 * `cookbook`: by the approximation 1/Q = 2·sinh(ln 2/2 · N · w/sin w) of the Audio EQ Cookbook.
 */
export const widthConventions = [
  'half-gain',
  'three-db',
  'resonance',
  'half-gain-analogue',
  'three-db-analogue',
  'resonance-analogue',
  'cookbook',
] as const
export type WidthConvention = (typeof widthConventions)[number]

/**
 * The edges of a band obey |Ω - 1/Ω| = X/Q for the filter's analogue frequency Ω with its middle at 1; X by the level
 * that the convention names: (A² - G²/A²)/(G² - 1) = X² for a peak A² = 10^(gain/20) and a level G at the edges. Null
 * where the filter has no such edges.
 */
function edgeFactor(convention: WidthConvention, gain: Decibels): number | null {
  const peak = 10 ** (Math.abs(gain) / 20)
  if (convention.startsWith('resonance')) return 1 / Math.sqrt(peak)
  if (!convention.startsWith('three-db')) return 1
  return peak * peak > 2 ? Math.sqrt(peak / (peak * peak - 2)) : null
}

/** Width in octaves between Ω and 1/Ω of a filter whose Ω - 1/Ω is `u`. */
function widthOf(u: number, f: Hertz, sampleRate: Hertz | null): number {
  const upper = (u + Math.sqrt(u * u + 4)) / 2
  if (sampleRate === null) return 2 * Math.log2(upper)
  const middle = Math.tan((Math.PI * f) / sampleRate)
  return Math.log2(Math.atan(upper * middle) / Math.atan(middle / upper))
}

/**
 * Q (as the Cookbook's peaking filter has it) of a width in octaves, for the kinds whose edges are 3.01 dB down
 * (notch, band-pass) at a `gain` of 0 by `half-gain`. Throws RangeError where there is no filter of that width.
 */
export function qOfWidth(
  octaves: number,
  convention: WidthConvention,
  f: Hertz,
  gain: Decibels,
  sampleRate: Hertz,
): number {
  if (!(octaves > 0)) throw refusal('filter.noWidth', { octaves })
  const factor = edgeFactor(convention, gain)
  if (factor === null)
    throw refusal('filter.noTopPoints', { gain })
  if (convention === 'cookbook') {
    const w = (2 * Math.PI * f) / sampleRate
    return 1 / (2 * Math.sinh((Math.LN2 / 2) * octaves * (w / Math.sin(w))))
  }
  if (convention.endsWith('analogue')) return factor / (2 * Math.sinh((Math.LN2 / 2) * octaves))
  // the width falls as Q rises: halving between bounds, then as exact as the numbers are
  let [low, high] = [1e-6, 1e6]
  if (widthOf(factor / low, f, sampleRate) < octaves)
    throw refusal('filter.tooWide', { frequency: f, octaves, sampleRate })
  for (let n = 0; n < 200; n++) {
    const middle = Math.sqrt(low * high)
    if (middle === low || middle === high) break
    if (widthOf(factor / middle, f, sampleRate) > octaves) low = middle
    else high = middle
  }
  return Math.sqrt(low * high)
}

/** Width in octaves of a filter of this Q: the way back of `qOfWidth`; null where the convention has none for it. */
export function widthOfQ(
  q: number,
  convention: WidthConvention,
  f: Hertz,
  gain: Decibels,
  sampleRate: Hertz,
): number | null {
  const factor = edgeFactor(convention, gain)
  if (factor === null) return null
  if (convention === 'cookbook') {
    const w = (2 * Math.PI * f) / sampleRate
    return (Math.asinh(1 / (2 * q)) * 2 * Math.sin(w)) / (Math.LN2 * w)
  }
  return widthOf(factor / q, f, convention.endsWith('analogue') ? null : sampleRate)
}
