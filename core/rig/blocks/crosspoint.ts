import * as v from 'valibot'
import { ratioOf, showLevel } from '../../units'
import { base, defineBlock, finite, Range, within } from './kind'
import { phrase } from '../../words'

/** Level in dB at which an input of a mixer feeds an output; null: not connected. */
export const crosspoint = defineBlock({
  kind: 'crosspoint',
  capability: v.strictObject({ kind: v.literal('crosspoint'), ...base, range: Range }),
  value: v.nullable(finite),
  name: () => phrase('rig.crosspoint'),
  neutral: () => null,
  hold: ({ range }, wish, name) => (wish === null ? null : within(wish, range, showLevel, name)),
  show: value => (value === null ? phrase('rig.off') : showLevel(value)),
  part: value => ({ gain: value === null ? 0 : ratioOf(value) }),
  // connecting or not says nothing about the sound of what is connected
  stales: (from, to) => from !== null && to !== null,
  role: 'routing',
  mayRaise: true,
  isLevel: true,
  fields: { '': { kind: 'number', name: 'field.levelBlock', quantity: 'level', range: c => c.range } },
})
