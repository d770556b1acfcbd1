import * as v from 'valibot'
import type { BandDecay, DepthMap, EchoArrival } from '../../measure'
import { count, finite, made, samples } from './values'

/** To the worker that computes figures of impulse responses. `id` comes back with the answer. */
export const FiguresRequest = v.object({
  id: count,
  samples,
  sampleRate: v.pipe(finite, v.minValue(1)),
  /** Time of the first sample from the arrival. */
  start: finite,
  what: v.variant('kind', [
    v.object({
      kind: v.literal('decay'),
      part: v.picklist([1, 3]),
      /** Octave levels at the listener, for speech transmission; null: of the room alone. */
      levels: v.nullable(v.object({ speech: v.array(finite), noise: v.array(finite) })),
    }),
    v.object({ kind: v.literal('envelope') }),
    v.object({ kind: v.literal('map'), low: finite, high: finite, length: finite, window: finite }),
  ]),
})
export type FiguresRequest = v.InferOutput<typeof FiguresRequest>
export const FiguresAnswer = v.object({
  id: count,
  envelope: v.optional(samples),
  decay: v.optional(
    v.object({ bands: v.array(made<BandDecay>('A band')), sti: v.nullable(v.number()), levels: v.boolean() }),
  ),
  map: v.optional(made<DepthMap & { falls: (number | null)[] }>('The map')),
  arrivals: v.array(made<EchoArrival>('An arrival')),
})
export type FiguresAnswer = v.InferOutput<typeof FiguresAnswer>
