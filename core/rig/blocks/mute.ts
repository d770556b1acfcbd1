import * as v from 'valibot'
import { base, defineBlock } from './kind'
import { phrase } from '../../words'

/** Silence, or not. Whether a path sounds at the moment says nothing about its filters: takes stay true. */
export const mute = defineBlock({
  kind: 'mute',
  capability: v.strictObject({ kind: v.literal('mute'), ...base }),
  value: v.boolean('must be true or false'),
  name: () => phrase('rig.mute'),
  neutral: () => false,
  hold: (_, wish) => wish,
  show: value => phrase(value ? 'rig.muted' : 'rig.open'),
  part: value => (value ? { gain: 0 } : {}),
  stales: () => false,
  role: 'routing',
  mayRaise: false,
  atHand: {},
  fields: { '': { kind: 'switch', name: 'field.muteBlock' } },
})
