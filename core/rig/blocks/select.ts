import * as v from 'valibot'
import { base, defineBlock } from './kind'
import { refusal, phrase } from '../../words'

const SelectCapability = v.strictObject({
  kind: v.literal('select'),
  ...base,
  /** Connectors that can be listened to: `port` counts the device's inputs from 0. */
  options: v.pipe(
    v.array(v.strictObject({ id: v.string(), name: v.string(), port: v.pipe(v.number(), v.integer(), v.minValue(0)) })),
    v.minLength(1),
  ),
})
export type SelectCapability = v.InferOutput<typeof SelectCapability>

/** Which of several connectors a strip listens to. It does nothing to the sound that comes from there. */
export const select = defineBlock({
  kind: 'select',
  capability: SelectCapability,
  value: v.string('must be the name of a connector'),
  name: () => phrase('rig.source'),
  neutral: ({ options }) => options[0]!.id,
  hold: ({ options }, wish, name) => {
    if (options.some(o => o.id === wish)) return wish
    throw refusal('block.noOption', { name, option: wish, options: options.map(o => o.id).join(', ') })
  },
  show: (value, c) => c?.options.find(o => o.id === value)?.name ?? value,
  part: () => ({}),
  stales: () => true,
  role: 'source-select',
  mayRaise: true,
  fields: { '': { kind: 'choice', name: 'field.sourceBlock', options: c => c.options } },
})
