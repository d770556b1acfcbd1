import * as v from 'valibot'
import type { AlignMap, VariantCandidate } from '../../tune'
import { count, made, Told } from './values'

const complex = v.object({ re: made<ArrayLike<number>>('A part'), im: made<ArrayLike<number>>('A part') })
/** To the worker that looks for the best sum of two sources. */
export const AlignRequest = v.object({
  id: count,
  frequencies: made<Float64Array>('The frequencies'),
  widths: made<Float64Array>('The widths'),
  pairs: v.array(v.object({ reference: complex, move: complex, apart: v.optional(v.number()) })),
  delay: v.tuple([v.number(), v.number()]),
  step: v.number(),
  weights: v.array(v.number()),
  names: v.array(v.string()),
  level: v.optional(v.tuple([v.number(), v.number()])),
  worst: v.optional(v.number()),
  even: v.optional(v.number()),
  /** What filters would do besides; the first is what is set now. */
  variants: v.array(v.object({ reference: v.optional(complex), move: v.optional(complex) })),
})
export type AlignRequest = v.InferOutput<typeof AlignRequest>
export const AlignAnswered = v.object({
  id: count,
  part: v.optional(v.number()),
  candidates: v.optional(v.array(made<VariantCandidate>('A candidate'))),
  /** By variant. */
  maps: v.optional(v.array(made<AlignMap>('A map'))),
  why: v.optional(Told),
})
export type AlignAnswered = v.InferOutput<typeof AlignAnswered>
