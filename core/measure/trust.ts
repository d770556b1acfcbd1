import type { Curve } from '../dsp'
import type { Hertz } from '../units'

/**
 * Coherence below which a trace is drawn pale: at 0.6 noise and reflections carry two thirds of what the direct
 * link carries (common practice).
 */
export const trustThreshold = 0.6

/** Under so many blocks coherence says nothing yet: that of a single block is 1 whatever was heard. */
export const fewBlocks = 3

/** One flag a point: true where the curve may be believed. Data without coherence is simply believed. */
export const trusted = (curve: Curve, threshold = trustThreshold): boolean[] =>
  Array.from(curve.frequencies, (_, k) => curve.coherence === null || curve.coherence[k]! >= threshold)

/** Where trust is counted of a source whose own band is not known. */
const usualBand = [60, 16_000] as const

/**
 * Part of a curve that may be believed, 0 to 1: of its points in the band that the source plays (Hz, 60 Hz to 16 kHz
 * where that is not known). Data without coherence is simply believed.
 */
export function trustedPart(
  curve: Curve,
  band: readonly [low: Hertz, high: Hertz] | null,
  threshold = trustThreshold,
): { part: number, band: readonly [low: Hertz, high: Hertz] } {
  const [low, high] = band ?? usualBand
  const inside = (f: Hertz) => f >= low && f <= high
  const flags = trusted(curve, threshold).filter((_, k) => inside(curve.frequencies[k]!))
  return { part: flags.length ? flags.filter(Boolean).length / flags.length : 0, band: [low, high] }
}
