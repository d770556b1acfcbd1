import * as v from 'valibot'
import { base, defineBlock } from './kind'
import { phrase } from '../../words'

/** Normal, or inverted: multiplied by -1. */
export const polarity = defineBlock({
  kind: 'polarity',
  capability: v.strictObject({ kind: v.literal('polarity'), ...base }),
  value: v.picklist(['normal', 'inverted'], 'must be normal or inverted'),
  name: () => phrase('rig.polarity'),
  neutral: () => 'normal' as const,
  hold: (_, wish) => wish,
  show: value => phrase(value === 'normal' ? 'rig.normal' : 'rig.inverted'),
  part: value => (value === 'inverted' ? { gain: -1 } : {}),
  stales: () => true,
  role: 'linear',
  mayRaise: false,
  atHand: { named: true },
  fields: {
    '': {
      kind: 'choice',
      name: 'field.polarityBlock',
      options: () => [
        { id: 'normal', name: phrase('rig.normal') },
        { id: 'inverted', name: phrase('rig.inverted') },
      ],
    },
  },
})
