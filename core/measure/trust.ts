import type { Curve } from '../dsp'

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
