import * as v from 'valibot'
import { besselNorms, classical, families, type BesselNorm, type Family } from '../../dsp'
import { showFrequency } from '../../units'
import { base, defineBlock, finite, Range, within } from './kind'
import { refusal, phrase, type Label } from '../../words'

const order = v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(8))
const orders = Object.fromEntries(families.map(f => [f, v.optional(v.array(order))]))

export const PassCapability = v.strictObject({
  kind: v.literal('pass'),
  ...base,
  side: v.picklist(['high', 'low']),
  /** The orders (6 dB an octave each) of every family that it has. */
  orders: v.strictObject(orders as Record<Family, v.OptionalSchema<v.ArraySchema<typeof order, undefined>, undefined>>),
  frequency: Range,
  /** What the frequency of its Bessel filters means; their level of -3 dB unless it says another. */
  bessel: v.optional(v.picklist(besselNorms)),
})
export type PassCapability = v.InferOutput<typeof PassCapability>

/** High- or low-pass: `order` times 6 dB an octave, frequency in Hz. */
export const Pass = v.strictObject({
  on: v.boolean(),
  family: v.picklist(families),
  order: v.pipe(v.number(), v.integer()),
  frequency: finite,
})
export type Pass = v.InferOutput<typeof Pass>

const familyNames: Record<Family, Label> = {
  'butterworth': 'family.butterworth',
  'linkwitz-riley': 'family.linkwitzRiley',
  'bessel': 'family.bessel',
}
const normNames: Record<BesselNorm, Label> = {
  magnitude: 'norm.magnitude',
  delay: 'norm.delay',
  phase: 'norm.phase',
}
/** A family's name; of Bessel with what its frequency means to this device. */
export const familyName = (family: Family, { bessel = 'magnitude' }: Pick<PassCapability, 'bessel'> = {}): string =>
  family === 'bessel'
    ? phrase('rig.besselOf', { norm: phrase(normNames[bessel]) })
    : phrase(familyNames[family])

function checkKind({ orders }: PassCapability, { family, order }: Pass, name: string) {
  const offered = orders[family]
  if (!offered?.length) {
    throw refusal('block.noFamily', { name, family, families: Object.keys(orders).join(', ') })
  }
  if (offered.includes(order)) return
  const slopes = offered.map(o => 6 * o).join(', ')
  throw refusal('block.noSlope', { name, slope: 6 * order, family, slopes })
}

const usual = { high: 80, low: 16_000 }

/** A classical high- or low-pass. */
export const pass = defineBlock({
  kind: 'pass',
  capability: PassCapability,
  value: Pass,
  name: ({ side }) => phrase(side === 'high' ? 'rig.highPass' : 'rig.lowPass'),
  neutral: ({ orders, side, frequency }) => {
    const family = families.find(f => orders[f]?.length)!
    const offered = orders[family]!
    const f = Math.min(frequency.max, Math.max(frequency.min, usual[side]))
    return { on: false, family, order: offered.includes(4) ? 4 : offered[0]!, frequency: f }
  },
  hold: (capability, wish, name) => {
    checkKind(capability, wish, name)
    return { ...wish, frequency: within(wish.frequency, capability.frequency, showFrequency, `${name} frequency`) }
  },
  show: ({ on, family, order, frequency }) =>
    on
      ? phrase('rig.dbOctAt', {
          family: phrase(familyNames[family]),
          slope: 6 * order,
          frequency: showFrequency(frequency),
        })
      : phrase('rig.off'),
  part: ({ on, family, order, frequency }, { side, bessel }, rate) =>
    on ? { sections: classical(family, side, order, frequency, rate, bessel) } : {},
  stales: (from, to) => from.on || to.on,
  role: 'linear',
  mayRaise: true,
  fields: {
    on: { kind: 'switch', name: 'field.on' },
    frequency: { kind: 'number', name: 'field.frequency', quantity: 'frequency', range: c => c.frequency },
    family: {
      kind: 'choice',
      name: 'field.family',
      options: c => families.filter(f => c.orders[f]?.length).map(id => ({ id, name: familyName(id, c) })),
    },
    order: {
      kind: 'choice',
      name: 'field.slope',
      options: c => [...new Set(Object.values(c.orders).flat())].map(o => ({ id: o!, name: phrase('rig.dbOct', {
        slope: 6 * o!,
      }) })),
    },
  },
})
