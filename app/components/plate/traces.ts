import { magnitude, phase, type Curve } from '~~/core/dsp'
import { trusted } from '~~/core/measure'

/** One line on the plate. Hue tells the source, dash the position; a prediction is dotted. */
export interface Trace { id: string, name: string, hue: number, dash: number, predicted: boolean, strong: boolean, values: Float64Array, trusted: boolean[] }

/** A curve on its way to the plate. */
export interface Drawn extends Omit<Trace, 'values' | 'trusted'> {
  curve: Curve
  /** Too few blocks yet: their coherence is near 1 whatever was heard, so nothing of it is trusted. */
  young?: boolean
}

const mask = (d: Drawn) => trusted(d.curve).map(t => t && !d.young)

const trace = (d: Drawn, values: Float64Array, flags = mask(d)): Trace =>
  ({ id: d.id, name: d.name, hue: d.hue, dash: d.dash, predicted: d.predicted, strong: d.strong, values, trusted: flags })

/** Magnitude in dB; silence (-150 dB and less) is not drawn. */
export const magnitudeTrace = (d: Drawn): Trace => trace(d, magnitude(d.curve).map(v => v < -150 ? Number.NaN : v))

/** Phase in degrees, lifted off the paper where it wraps round. */
export function phaseTrace(d: Drawn): Trace {
  const angle = phase(d.curve)
  const broken = angle.map((v, k) => k > 0 && Math.abs(v - angle[k - 1]!) > 180 ? Number.NaN : v)
  return trace(d, broken.map((v, k) => d.curve.re[k] === 0 && d.curve.im[k] === 0 ? Number.NaN : v))
}

/** Coherence; it is what trust is made of, so it is never pale itself. */
export const coherenceTrace = (d: Drawn): Trace => trace(d, d.curve.coherence!, Array.from(d.curve.frequencies, () => true))
