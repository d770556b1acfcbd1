import * as v from 'valibot'
import type { RunStep, StepFacts, TuneJob, Tuning } from '../../tune'
import { count, made, Told } from './values'

/** To the worker that knows the whole job: how its steps stand, or what it proposes. */
export const TuneRequest = v.object({
  id: count,
  job: made<TuneJob>('The job'),
  /** For the steps; without it proposals are asked for. */
  facts: v.optional(made<StepFacts>('The facts')),
})
export type TuneRequest = v.InferOutput<typeof TuneRequest>
export const TuneAnswered = v.object({
  id: count,
  steps: v.optional(v.array(made<RunStep>('A step'))),
  /** How far it is (0 to 1), and what it looks at. */
  part: v.optional(v.number()),
  what: v.optional(Told),
  tuning: v.optional(made<Tuning>('The proposals')),
  why: v.optional(Told),
})
export type TuneAnswered = v.InferOutput<typeof TuneAnswered>
