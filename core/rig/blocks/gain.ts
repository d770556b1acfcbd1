import * as v from 'valibot'
import { ratioOf, showLevel } from '../../units'
import { base, defineBlock, finite, Range, within } from './kind'
import { phrase } from '../../words'

/** A level in dB. */
export const gain = defineBlock({
  kind: 'gain',
  capability: v.strictObject({ kind: v.literal('gain'), ...base, range: Range }),
  value: finite,
  name: () => phrase('rig.gain'),
  neutral: ({ range }) => Math.min(range.max, Math.max(range.min, 0)),
  hold: ({ range }, wish, name) => within(wish, range, showLevel, name),
  show: value => showLevel(value),
  part: value => ({ gain: ratioOf(value) }),
  stales: () => true,
  role: 'linear',
  mayRaise: true,
  isLevel: true,
  atHand: {},
  fields: { '': { kind: 'number', name: 'field.gainBlock', quantity: 'level', range: c => c.range } },
})
