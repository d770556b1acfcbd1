import * as v from 'valibot'
import { filterKindIds, filterKinds, filterNames, filterSection, type Section } from '../../dsp'
import { showFrequency, showLevel, showNumber, type Hertz } from '../../units'
import { base, defineBlock, finite, Range, within } from './kind'
import { refusal, phrase } from '../../words'

export const BandCapability = v.strictObject({
  kind: v.literal('band'),
  ...base,
  types: v.pipe(v.array(v.picklist(filterKindIds)), v.minLength(1)),
  frequency: Range,
  gain: Range,
  q: Range,
  /**
   * What the Q of its peaking filters means: the middle over the width between half of the gain (as the Audio EQ
   * Cookbook has it; so unless it says another), or over that of the resonance alone, the same at every gain.
   */
  width: v.optional(v.picklist(['half-gain', 'resonance'])),
})
export type BandCapability = v.InferOutput<typeof BandCapability>

/** One EQ band: frequency in Hz, gain in dB (no effect on all-pass and notch). */
export const Band = v.strictObject({
  on: v.boolean(),
  type: v.picklist(filterKindIds),
  frequency: finite,
  gain: finite,
  q: finite,
})
export type Band = v.InferOutput<typeof Band>

/** True when the band's filter changes anything. */
export const bandActs = ({ on, type, gain }: Band): boolean => on && (gain !== 0 || !filterKinds[type].gain)

/**
 * Q of the Cookbook's peaking filter from the device's own. The edges of a resonance lie at |Ω - 1/Ω| = 1/(√peak·Q) of
 * the Cookbook's Q (see core/dsp/bandwidth), and at 1/Q of its own.
 */
export const cookbookQ = (q: number, gain: number, { width }: Pick<BandCapability, 'width'>): number =>
  width === 'resonance' ? q * 10 ** (-Math.abs(gain) / 40) : q
/** The device's own Q from the Cookbook's. */
export const deviceQ = (q: number, gain: number, { width }: Pick<BandCapability, 'width'>): number =>
  width === 'resonance' ? q * 10 ** (Math.abs(gain) / 40) : q

function sectionOf(value: Band, capability: BandCapability, rate: Hertz): Section {
  const q = value.type === 'peaking' ? cookbookQ(value.q, value.gain, capability) : value.q
  return filterSection({ kind: value.type, frequency: value.frequency, gain: value.gain, q }, rate)
}

const usual = [100, 250, 500, 1000, 2000, 4000, 8000, 12_500]

/** One band of a parametric EQ. */
export const band = defineBlock({
  kind: 'band',
  capability: BandCapability,
  value: Band,
  name: (_, index) => phrase('rig.eqBand', { number: index + 1 }),
  neutral: ({ types }, index) => ({
    on: false,
    type: types[0]!,
    frequency: usual[index % usual.length]!,
    gain: 0,
    q: 1.4,
  }),
  hold: (c, wish, name) => {
    if (!c.types.includes(wish.type)) {
      throw refusal('block.noType', { name, type: wish.type, types: c.types.join(', ') })
    }
    return {
      ...wish,
      frequency: within(wish.frequency, c.frequency, showFrequency, `${name} frequency`),
      gain: within(wish.gain, c.gain, showLevel, `${name} gain`),
      q: within(wish.q, c.q, q => `Q ${showNumber(q, 2)}`, `${name}:`),
    }
  },
  show: ({ on, type, frequency, gain, q }) => {
    if (!on) return phrase('rig.off')
    const { gain: hasGain, q: hasQ } = filterKinds[type]
    const gained = hasGain ? showLevel(gain) : ''
    const wide = hasQ ? `Q ${showNumber(q, 2)}` : ''
    return [phrase(filterNames[type]), showFrequency(frequency), gained, wide].filter(Boolean).join(' ')
  },
  part: (value, c, rate) => (bandActs(value) ? { sections: [sectionOf(value, c, rate)] } : {}),
  stales: (from, to) => bandActs(from) || bandActs(to),
  role: 'linear',
  mayRaise: true,
  fields: {
    on: { kind: 'switch', name: 'field.on' },
    type: {
      kind: 'choice',
      name: 'field.kind',
      options: c => c.types.map(id => ({ id, name: phrase(filterNames[id]) })),
    },
    frequency: { kind: 'number', name: 'field.frequency', quantity: 'frequency', range: c => c.frequency },
    gain: { kind: 'number', name: 'field.gain', quantity: 'level', range: c => c.gain },
    q: { kind: 'number', name: 'field.q', quantity: 'q', range: c => c.q },
  },
})
