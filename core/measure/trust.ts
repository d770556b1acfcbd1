import type { Curve } from '../dsp'
import type { Decibels, Hertz } from '../units'
import { levelUncertainty } from './confidence'

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
 * How well a curve is known in the band that its source plays (Hz, 60 Hz to 16 kHz where that is not known).
 * `part`: of its points there, those that may be believed, 0 to 1; data without coherence is simply believed.
 * `level`: the median of the upper half of the 95 % interval of its level there, dB (`levelUncertainty`); null where
 * the curve has no coherence, or half of its points have no limit.
 */
export function trustedPart(
  curve: Curve,
  band: readonly [low: Hertz, high: Hertz] | null,
  threshold = trustThreshold,
): { part: number, level: Decibels | null, band: readonly [low: Hertz, high: Hertz] } {
  const [low, high] = band ?? usualBand
  const inside = (_: unknown, k: number) => curve.frequencies[k]! >= low && curve.frequencies[k]! <= high
  const flags = trusted(curve, threshold).filter(inside)
  const ratios = levelUncertainty(curve)?.filter(inside).sort()
  const middle = ratios?.length ? ratios[ratios.length >> 1]! : Infinity
  return {
    part: flags.length ? flags.filter(Boolean).length / flags.length : 0,
    level: middle < Infinity ? 20 * Math.log10(1 + middle) : null,
    band: [low, high],
  }
}
