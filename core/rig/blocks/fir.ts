import * as v from 'valibot'
import { base, defineBlock, finite } from './kind'
import { refusal, phrase } from '../../words'

const mostTaps = 65_535

/** Coefficients at the device's sample rate; none: the signal goes through unchanged. */
export const Fir = v.strictObject({ on: v.boolean(), taps: v.pipe(v.array(finite), v.maxLength(mostTaps)) })
export type Fir = v.InferOutput<typeof Fir>

const FirCapability = v.strictObject({
  kind: v.literal('fir'),
  ...base,
  /** Most coefficients that it takes. */
  length: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(mostTaps)),
})
export type FirCapability = v.InferOutput<typeof FirCapability>

/** A filter by its impulse response. */
export const fir = defineBlock({
  kind: 'fir',
  capability: FirCapability,
  value: Fir,
  name: () => phrase('rig.fir'),
  neutral: () => ({ on: false, taps: [] }),
  hold: ({ length }, wish, name) => {
    if (wish.taps.length > length) {
      throw refusal('block.manyTaps', { name, taps: wish.taps.length, most: length })
    }
    return { ...wish, taps: wish.taps.map(Math.fround) }
  },
  show: ({ on, taps }) => (on ? phrase('rig.coefficients', { taps: taps.length }) : phrase('rig.off')),
  part: ({ on, taps }) => (on && taps.length ? { taps } : {}),
  stales: (from, to) => from.on || to.on,
  role: 'linear',
  mayRaise: true,
  fields: { on: { kind: 'switch', name: 'field.on' } },
})
