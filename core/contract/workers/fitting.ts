import * as v from 'valibot'
import type { FitResult } from '../../tune'
import { FitBody } from '../shape'
import { count, made, samples, Told } from './values'

/** To the worker that fits filters. */
export const FitRequest = v.object({
  id: count,
  body: FitBody,
  /** dB RMS for which the fewest filters are wanted. */
  enough: v.optional(v.number()),
  /** Responses in which modes that ring are looked for; the arrival lies `start` seconds after the first sample. */
  responses: v.optional(v.array(v.object({ samples, sampleRate: v.number(), start: v.number() }))),
})
export type FitRequest = v.InferOutput<typeof FitRequest>
/** How far it is (0 to 1), what came of it, or why nothing did. */
export const FitAnswered = v.object({
  id: count,
  part: v.optional(v.number()),
  result: v.optional(made<FitResult>('The filters')),
  /** dB RMS that each filter buys. */
  worth: v.optional(v.array(v.number())),
  why: v.optional(Told),
})
export type FitAnswered = v.InferOutput<typeof FitAnswered>
