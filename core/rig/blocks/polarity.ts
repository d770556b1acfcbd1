import * as v from 'valibot'
import { base, defineBlock } from './kind'

/** Normal, or inverted: multiplied by -1. */
export const polarity = defineBlock({
  kind: 'polarity',
  capability: v.strictObject({ kind: v.literal('polarity'), ...base }),
  value: v.picklist(['normal', 'inverted'], 'must be normal or inverted'),
  name: () => 'Polarity',
  neutral: () => 'normal' as const,
  hold: (_, wish) => wish,
  show: value => value,
  part: value => (value === 'inverted' ? { gain: -1 } : {}),
  stales: () => true,
  role: 'linear',
  mayRaise: false,
  atHand: { named: true },
  fields: {
    '': {
      kind: 'choice',
      name: 'Polarity',
      options: () => [
        { id: 'normal', name: 'normal' },
        { id: 'inverted', name: 'inverted' },
      ],
    },
  },
})
