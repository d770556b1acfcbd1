import { magnitude, type Curve } from '../dsp'
import { trusted } from '../measure'
import type { Decibels, Hertz } from '../units'

/** A measured curve as a fit takes it: columns over the points that tell something. */
export interface CurveToFit {
  frequency_hz: number[]
  magnitude_db: number[]
  coherence?: number[]
  weight: number
}

const silent: Decibels = -150

/**
 * What of a measured curve is worth fitting: without silence; where it has coherence that weighs it, else where it is
 * trusted. `without` is taken off its level at each frequency (a target's shape, filters that will go).
 */
export function curveToFit(
  curve: Curve,
  { weight, trust, without }: { weight: number, trust: number, without: (f: Hertz, k: number) => Decibels },
): CurveToFit {
  const levels = magnitude(curve)
  const flags = trusted(curve, trust)
  const at = [...curve.frequencies.keys()].filter(k => levels[k]! > silent && (flags[k] || curve.coherence))
  const f = (k: number) => curve.frequencies[k]!
  return {
    frequency_hz: at.map(f),
    magnitude_db: at.map(k => levels[k]! - without(f(k), k)),
    ...(curve.coherence ? { coherence: at.map(k => Math.min(1, Math.max(0, curve.coherence![k]!))) } : {}),
    weight,
  }
}
