import type { Seconds } from '../units'
import type { Live } from './live'

export interface Heard {
  at: Seconds
  arrival: Seconds
}

/**
 * Drift of an arrival in ppm: the slope of its times over at least `least` seconds by least squares, null when
 * that is not straight (something was moved).
 */
export function driftOf(history: readonly Heard[], least: Seconds = 12): number | null {
  const n = history.length
  if (n < 8 || history[n - 1]!.at - history[0]!.at < least) return null
  const mx = history.reduce((s, h) => s + h.at, 0) / n
  const my = history.reduce((s, h) => s + h.arrival, 0) / n
  let sxx = 0
  let sxy = 0
  let syy = 0
  for (const h of history) {
    sxx += (h.at - mx) ** 2
    sxy += (h.at - mx) * (h.arrival - my)
    syy += (h.arrival - my) ** 2
  }
  const slope = sxy / sxx
  if (syy < 1e-14) return 0
  if ((sxy * sxy) / (sxx * syy) > 0.95) return slope * 1e6
  return Math.abs(slope) < 1e-6 ? 0 : null
}

/** What is looked at: the last half minute; a first compensation after six seconds, the rest is refined. */
const remembers: Seconds = 30
const first: Seconds = 6
/**
 * A nearer arrival is not followed, a farther one is a jump and for the technician to decide. Crystals of sound
 * devices differ by less than `mostPpm` (common practice).
 */
const least: Seconds = 2e-5
const most: Seconds = 0.003
const mostPpm = 300

/**
 * Watches a measurement's arrivals: tells their drift, and lets the measurement follow slow movement or,
 * between two clocks,
 * takes the difference of the clocks out.
 */
export function createFollower(live: Live) {
  let trail: Heard[] = []
  return {
    /**
     * An arrival heard at a time, in seconds; `follow`: go after it; `clocks`: the two sides have clocks of
     * their own.
     */
    heard(at: Seconds, arrival: Seconds, follow: boolean, clocks: boolean) {
      if (trail.length && arrival === trail[trail.length - 1]!.arrival) return
      trail = [...trail.filter(t => t.at > at - remembers), { at, arrival }]
      if (clocks) {
        const ppm = driftOf(trail, first)
        if (ppm !== null && Math.abs(ppm) < mostPpm && Math.abs(ppm * 1e-6 - live.drift) > 5e-7) {
          live.setDrift(ppm * 1e-6)
          trail = []
        }
      }
      const away = Math.abs(arrival - live.delay)
      if ((follow || clocks) && away > least && away < most) live.follow(arrival)
    },
    /** ppm; null while it is not known. */
    get drift(): number | null {
      return live.drift ? live.drift * 1e6 : driftOf(trail)
    },
    restart() {
      trail = []
    },
  }
}
