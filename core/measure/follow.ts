import type { Seconds } from '../units'
import type { Live } from './liveEngine'

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
  const { slope, left } = lineOf(history)
  const mean = history.reduce((sum, h) => sum + h.arrival, 0) / n
  const squares = history.reduce((sum, h) => sum + (h.arrival - mean) ** 2, 0)
  if (squares < 1e-14) return 0
  if (left ** 2 * (n - 2) < 0.05 * squares) return slope * 1e6
  return Math.abs(slope) < 1e-6 ? 0 : null
}

/** A line through the times of an arrival: its slope, how far that may be off, and what is left, in seconds. */
function lineOf(history: readonly Heard[]): { slope: number, error: number, left: Seconds } {
  const n = history.length
  const mx = history.reduce((s, h) => s + h.at, 0) / n
  const my = history.reduce((s, h) => s + h.arrival, 0) / n
  const sxx = history.reduce((s, h) => s + (h.at - mx) ** 2, 0)
  const slope = history.reduce((s, h) => s + (h.at - mx) * (h.arrival - my), 0) / sxx
  const squares = history.reduce((s, h) => s + (h.arrival - my - slope * (h.at - mx)) ** 2, 0)
  const left = Math.sqrt(squares / Math.max(1, n - 2))
  return { slope, error: left / Math.sqrt(sxx), left }
}

/** What is looked at: the last half minute; between two clocks two minutes, for their difference is refined. */
const remembers: Seconds = 30
const refines: Seconds = 120
/** A first compensation comes after six seconds, and so many looks. */
const first: Seconds = 6
const fewest = 8
/**
 * A nearer arrival is not followed, a farther one is a jump and for the technician to decide. Crystals of sound
 * devices differ by less than `mostPpm`, and do not change by more than `steadyPpm` while one measures (common
 * practice).
 */
const least: Seconds = 2e-5
const most: Seconds = 0.003
const mostPpm = 300
const steadyPpm = 20
/** Between two looks clocks move an arrival by less than this; more is a microphone that was moved. */
const jump: Seconds = 2e-4

/**
 * Watches a measurement's arrivals: tells their drift, and lets the measurement follow slow changes or,
 * between two clocks, takes the difference of the clocks out of the curve and of what is told.
 */
export function createFollower(live: Live) {
  let trail: Heard[] = []
  /** Corrects the clocks' difference by what the arrival still runs away, once that is beyond its own error. */
  function refine() {
    const { at } = trail[0]!
    const ago = trail[trail.length - 1]!.at - at
    if (trail.length < fewest || ago < first) return
    const { slope, error, left } = lineOf(trail)
    if (left > jump || Math.abs(slope) < 3 * error) return
    if (Math.abs(slope) > (live.drift ? steadyPpm : mostPpm) * 1e-6) return
    live.setDrift(live.drift + slope, ago)
    trail = []
  }
  return {
    /**
     * An arrival heard at a time, in seconds; `follow`: go after it; `clocks`: the two sides have clocks of
     * their own.
     */
    heard(at: Seconds, arrival: Seconds, follow: boolean, clocks: boolean) {
      const before = trail[trail.length - 1]?.arrival
      if (arrival === before) return
      if (clocks && before !== undefined && Math.abs(arrival - before) > jump) trail = []
      trail = [...trail.filter(t => t.at > at - (clocks ? refines : remembers)), { at, arrival }]
      if (clocks) refine()
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
