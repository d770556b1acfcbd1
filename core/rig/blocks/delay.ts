import * as v from 'valibot'
import { showDelay } from '../../units'
import { base, defineBlock, finite, Range, within } from './kind'
import { phrase } from '../../words'

/** A delay in seconds. */
export const delay = defineBlock({
  kind: 'delay',
  capability: v.strictObject({ kind: v.literal('delay'), ...base, range: Range }),
  value: finite,
  name: () => phrase('rig.delay'),
  neutral: () => 0,
  hold: ({ range }, wish, name) => within(wish, range, s => showDelay(s), name),
  show: value => showDelay(value),
  part: value => ({ delay: value }),
  stales: () => true,
  role: 'linear',
  mayRaise: false,
  atHand: {},
  fields: { '': { kind: 'number', name: 'field.delayBlock', quantity: 'delay', range: c => c.range } },
})
