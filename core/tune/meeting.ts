import type { Seconds } from '../units'
import { refusal } from '../words'

/** A source that shall arrive with others. */
export interface Arriving {
  /** When it is heard at each position; null where that is not known. */
  arrivals: readonly (Seconds | null)[]
  /** The least delay that is set for it now: no more can be taken from it. */
  set: Seconds
  /** So much later than the reference it shall be heard. */
  later: Seconds
}

/**
 * By how much longer the delay of each source must be so that all are heard with the first (or so much later), in the
 * weighted mean over the positions where both are known; what would be negative is made up by delaying all. Throws
 * RangeError when a source shares no position with the first.
 */
export function delaysToMeet(sources: readonly Arriving[], weights: readonly number[]): Seconds[] {
  const [first, ...others] = sources
  if (!first) return []
  const moves = others.map((s, n) => {
    let [sum, all] = [0, 0]
    s.arrivals.forEach((t, p) => {
      const from = first.arrivals[p]
      if (t === null || from === null || from === undefined) return
      sum += weights[p]! * (from + s.later - t)
      all += weights[p]!
    })
    if (!all) throw refusal('align.apart', { source: n + 2 })
    return sum / all
  })
  const by = [0, ...moves]
  const rest = Math.max(0, ...by.map((b, n) => -(b + sources[n]!.set)))
  return by.map(b => b + rest)
}
