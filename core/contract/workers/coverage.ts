import * as v from 'valibot'
import { Air, type Coverage, type Radiator } from '../../acoustics'
import { finite, made, samples } from './values'

/** To the worker that computes how the sources cover the areas. */
export const CoverageRequest = v.object({
  places: samples,
  radiators: v.array(made<Radiator>('A radiator')),
  air: Air,
  frequency: finite,
})
export type CoverageRequest = v.InferOutput<typeof CoverageRequest>
export const CoverageAnswer = made<Coverage>('The map')
export type CoverageAnswer = v.InferOutput<typeof CoverageAnswer>
