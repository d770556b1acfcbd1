import type { Seconds } from '../units'
import { planWithin } from './tuneTimes'

/** Off this angle from its axis a loudspeaker's own highs are so weak that a wall's may be louder (common practice). */
const aside = Math.cos((45 * Math.PI) / 180)

/** What is found of an arrival, and what the plan says of it. */
export interface Placed {
  /** Found less planned. */
  off: Seconds
  /** Cosine of the angle off the axis of the nearest cabinet; null of a source that plays all around (a sub). */
  cosine: number | null
}

/** What all of them are off by: electronics that nobody told of. */
export function usualOff(all: readonly Placed[]): Seconds {
  const sorted = all.map(p => p.off).sort((a, b) => a - b)
  return sorted[sorted.length >> 1] ?? 0
}

/**
 * Whether an arrival is likelier a reflection than the direct sound: off the axis of its loudspeaker, and later than
 * the plan lets it arrive by more than a plan is wrong. Such a time is no ground to set a delay by.
 */
export const isReflected = ({ off, cosine }: Placed, usual: Seconds): boolean =>
  cosine !== null && cosine < aside && off - usual > planWithin
