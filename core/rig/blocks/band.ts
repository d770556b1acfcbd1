import * as v from 'valibot'
import { allPass, highShelf, lowShelf, notch, peaking, type Section } from '../../dsp'
import { showFrequency, showLevel, showNumber, type Hertz } from '../../units'
import { base, defineBlock, finite, Range, within } from './kind'

interface Numbers {
  frequency: Hertz
  gain: number
  q: number
}

/** What an EQ band can be: its filter, and whether its gain does anything. A new type is one line here. */
export const bandTypes = {
  'peaking': { gain: true, section: (b: Numbers, rate: Hertz) => peaking(b.frequency, b.gain, b.q, rate) },
  'low-shelf': { gain: true, section: (b: Numbers, rate: Hertz) => lowShelf(b.frequency, b.gain, b.q, rate) },
  'high-shelf': { gain: true, section: (b: Numbers, rate: Hertz) => highShelf(b.frequency, b.gain, b.q, rate) },
  'all-pass': { gain: false, section: (b: Numbers, rate: Hertz) => allPass(b.frequency, b.q, rate) },
  'notch': { gain: false, section: (b: Numbers, rate: Hertz) => notch(b.frequency, b.q, rate) },
} as const satisfies Record<string, { gain: boolean, section: (b: Numbers, rate: Hertz) => Section }>
export type BandType = keyof typeof bandTypes
const typeIds = Object.keys(bandTypes) as BandType[]

export const BandCapability = v.strictObject({
  kind: v.literal('band'),
  ...base,
  types: v.pipe(v.array(v.picklist(typeIds)), v.minLength(1)),
  frequency: Range,
  gain: Range,
  q: Range,
})
export type BandCapability = v.InferOutput<typeof BandCapability>

/** One EQ band: frequency in Hz, gain in dB (no effect on all-pass and notch). */
export const Band = v.strictObject({
  on: v.boolean(),
  type: v.picklist(typeIds),
  frequency: finite,
  gain: finite,
  q: finite,
})
export type Band = v.InferOutput<typeof Band>

/** True when the band's filter changes anything. */
export const bandActs = ({ on, type, gain }: Band): boolean => on && (gain !== 0 || !bandTypes[type].gain)

const usual = [100, 250, 500, 1000, 2000, 4000, 8000, 12_500]

/** One band of a parametric EQ. */
export const band = defineBlock({
  kind: 'band',
  capability: BandCapability,
  value: Band,
  name: (_, index) => `EQ band ${index + 1}`,
  neutral: ({ types }, index) => ({
    on: false,
    type: types[0]!,
    frequency: usual[index % usual.length]!,
    gain: 0,
    q: 1.4,
  }),
  hold: (c, wish, name) => {
    if (!c.types.includes(wish.type)) {
      throw new RangeError(`${name}: this device has no ${wish.type}; it has ${c.types.join(', ')}.`)
    }
    return {
      ...wish,
      frequency: within(wish.frequency, c.frequency, showFrequency, `${name} frequency`),
      gain: within(wish.gain, c.gain, showLevel, `${name} gain`),
      q: within(wish.q, c.q, q => `Q ${showNumber(q, 2)}`, `${name}:`),
    }
  },
  show: ({ on, type, frequency, gain, q }) => {
    if (!on) return 'off'
    return `${type} ${showFrequency(frequency)}${bandTypes[type].gain ? ` ${showLevel(gain)}` : ''} Q `
      + `${showNumber(q, 2)}`
  },
  part: (value, _, rate) => (bandActs(value) ? { sections: [bandTypes[value.type].section(value, rate)] } : {}),
  stales: (from, to) => bandActs(from) || bandActs(to),
  louder: (from, to) => Math.max(0, bandActs(to) ? to.gain : 0) - Math.min(0, bandActs(from) ? from.gain : 0),
  fields: {
    on: { kind: 'switch', name: 'on' },
    type: { kind: 'choice', name: 'kind', options: c => c.types.map(id => ({ id, name: id })) },
    frequency: { kind: 'number', name: 'frequency', quantity: 'frequency', range: c => c.frequency },
    gain: { kind: 'number', name: 'gain', quantity: 'level', range: c => c.gain },
    q: { kind: 'number', name: 'Q', quantity: 'q', range: c => c.q },
  },
})
