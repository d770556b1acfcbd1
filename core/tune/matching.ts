import type { Decibels, Seconds } from '../units'
import type { Act } from './acts'

/** What is to be done to a source. */
export interface SourceAct {
  source: string
  act: Act
}
/** A change of gain, dB, and of delay, seconds, so small that it is left out. */
const [leastGain, leastDelay]: [Decibels, Seconds] = [0.05, 1e-5]
/** Gains are set in steps of a tenth of a decibel. */
const tenth = (by: Decibels): Decibels => Number(by.toFixed(1))

/**
 * At which position a source is matched: the one that was chosen, where the source was heard there; else where it is
 * loudest. -1 where it was heard nowhere.
 */
export function matchedAt(levels: readonly (Decibels | null)[], chosen?: number): number {
  if (chosen !== undefined && levels[chosen] != null) return chosen
  return levels.reduce<number>((best, l, n) => (l !== null && (best < 0 || l > levels[best]!) ? n : best), -1)
}

/** Gains that bring sources to a level; what is too little to be heard is left out. */
export const gainActs = (sources: readonly { source: string, by: Decibels | null }[]): SourceAct[] =>
  sources.flatMap(({ source, by }) =>
    (by === null || Math.abs(by) < leastGain ? [] : [{ source, act: { kind: 'gain', by: tenth(by) } as const }]))

/** Delays and gains that trim loudspeakers to a common place; nothing is made earlier or louder. */
export const trimActs = (trims: readonly { source: string, delay: Seconds, by: Decibels }[]): SourceAct[] =>
  trims.flatMap(({ source, delay, by }) => [
    ...(delay > leastDelay ? [{ source, act: { kind: 'delay', by: delay } as const }] : []),
    ...gainActs(by < 0 ? [{ source, by }] : []),
  ])
