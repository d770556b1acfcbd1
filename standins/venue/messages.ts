import * as v from 'valibot'
import { Place } from '../../core/acoustics'
import { generatorRequests } from '../../core/contract/workers/generating'
import { Failed, made } from '../../core/contract/workers/values'
import type { Rig, Wiring } from '../../core/rig'
import { backgroundIds } from './offers'
import type { Hall } from './venue'

/** What the devices hold, and what joins them. */
export type VenueRig = Rig & { wiring: Wiring }

const hall = made<Hall>('The hall')
const rig = made<VenueRig>('The rig')
/** By `microphoneTaps`; null where none stands. */
const microphones = v.array(v.nullable(Place))
const finite = v.pipe(v.number(), v.finite())
const count = v.pipe(v.number(), v.integer(), v.minValue(0))

/** To the worker that simulates the hall. */
export const VenueRequest = v.variant('type', [
  ...generatorRequests,
  v.object({ type: v.literal('open'), hall, rig, microphones }),
  v.object({ type: v.literal('holds'), rig }),
  v.object({ type: v.literal('move'), microphones }),
  v.object({ type: v.literal('replan'), hall, rig, microphones }),
  /** Seconds of the hall to one of ours. */
  v.object({ type: v.literal('clock'), speed: finite }),
  v.object({ type: v.literal('background'), id: v.picklist(backgroundIds) }),
  v.object({ type: v.literal('evening'), on: v.boolean() }),
  v.object({ type: v.literal('programme'), on: v.boolean() }),
  v.object({ type: v.literal('output'), channel: count }),
  /** By `simulatedTaps`. */
  v.object({ type: v.literal('gains'), gains: v.array(finite) }),
  /** Highest order of reflections that is followed one by one. */
  v.object({ type: v.literal('reflections'), order: count }),
])
export type VenueRequest = v.InferOutput<typeof VenueRequest>

export const VenueAnswer = v.variant('type', [
  v.object({
    type: v.literal('ring'),
    buffer: v.custom<SharedArrayBuffer>(value => value instanceof SharedArrayBuffer, 'The ring is missing.'),
  }),
  /** `ago`: frames written since the change. */
  v.object({ type: v.literal('heard'), moved: v.boolean(), ago: v.number() }),
  /** dB that every limiter that is on takes away now, by its device and strip. */
  v.object({ type: v.literal('limiting'), reductions: v.record(v.string(), v.number()) }),
  Failed,
])
export type VenueAnswer = v.InferOutput<typeof VenueAnswer>
