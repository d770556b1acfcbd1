import type { Decibels } from '../units'
import type { Parameter } from './parameters'

/** More than this at once is asked for first (common practice: twice the voltage). */
export const mostLouder: Decibels = 6

const gainIn = (value: unknown) =>
  typeof value === 'object' && value !== null && 'gain' in value ? (value as { gain: unknown }).gain : undefined

/**
 * The step in dB by which a change of one parameter makes what passes it louder at once; -Infinity where it does not.
 * What is opened or connected is meant to sound and is no step, nor is a filter that is moved with its gain.
 */
export function louderBy({ kind }: Parameter, from: unknown, to: unknown): Decibels {
  const step = kind.louder(from, to)
  const isMoved = gainIn(from) !== undefined && gainIn(from) === gainIn(to)
  return Number.isFinite(step) && !isMoved ? step : -Infinity
}
