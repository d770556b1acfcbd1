import * as v from 'valibot'
import type { Signal, SweepPlan } from '../../dsp'
import { count, finite, made, shared } from './values'

export const plan = made<SweepPlan>('The sweep')

/** To whatever runs the generator: the simulated hall's worker or the capture worklet. */
export const generatorRequests = [
  v.object({ type: v.literal('noise'), on: v.boolean(), level: finite }),
  v.object({ type: v.literal('signal'), signal: made<Signal>('The signal') }),
  v.object({ type: v.literal('sweep'), plan }),
  v.object({ type: v.literal('hush') }),
] as const
export type GeneratorRequest = v.InferOutput<(typeof generatorRequests)[number]>

/** `taps`: for each ring channel the node's input and its channel, or the generator. */
export const CaptureRequest = v.variant('type', [
  ...generatorRequests,
  v.object({
    type: v.literal('open'),
    buffer: shared,
    taps: v.array(v.union([v.literal('generator'), v.object({ input: count, channel: count })])),
  }),
])
export type CaptureRequest = v.InferOutput<typeof CaptureRequest>
