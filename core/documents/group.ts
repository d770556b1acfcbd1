import * as v from 'valibot'
import { Endpoint, sameEndpoint } from '../rig'
import { id, name, order } from './parts'
import { Needs } from './sheet'

/** What is added to several outputs alike, besides what each has of its own: what the room needs, not the box. */
export const Layer = v.pick(Needs, ['gain', 'delay', 'polarity', 'eq'])
export type Layer = v.InferOutput<typeof Layer>
export const noLayer: Layer = { gain: 0, delay: 0, polarity: 'normal', eq: [] }

export const Group = v.strictObject({
  id,
  name,
  order,
  members: v.pipe(
    v.array(Endpoint),
    v.maxLength(256, 'A group has 256 outputs at most'),
    v.check(list => list.every((a, k) => list.findIndex(b => sameEndpoint(a, b)) === k), 'An output is in it twice'),
  ),
  layer: Layer,
})
export type Group = v.InferOutput<typeof Group>

/** Layers over one another: gains and delays add, polarities turn each other, filters stand in a row. */
export function compose(base: Needs, layers: readonly Layer[]): Needs {
  const turned = [base, ...layers].filter(l => l.polarity === 'inverted').length % 2 === 1
  return {
    ...base,
    gain: layers.reduce((sum, l) => sum + l.gain, base.gain),
    delay: layers.reduce((sum, l) => sum + l.delay, base.delay),
    polarity: turned ? 'inverted' : 'normal',
    eq: [...base.eq, ...layers.flatMap(l => l.eq)],
  }
}
