import { allPass, applySections, unity, type Curve } from '../dsp'
import type { Degrees, Hertz, Seconds } from '../units'
import { correlate } from './alignScore'
import { pairsIn, type Both } from './readings'
import { refusal } from '../words'

/** An all-pass filter of the second order. */
export interface PhaseFilter {
  frequency: Hertz
  q: number
}
export interface PhaseMatchTask {
  /** Both sources at each position, with what each counts. */
  places: readonly Both[]
  weights: readonly number[]
  band: readonly [Hertz, Hertz]
  /** Of the device that has the filters. */
  sampleRate: Hertz
  /** Most all-pass filters. */
  most: number
  /** How far its delay may go. */
  delay: readonly [Seconds, Seconds]
}
export interface PhaseMatch {
  delay: Seconds
  polarity: 1 | -1
  filters: PhaseFilter[]
  /** RMS of what is left between the phases, in degrees: as they are, with delay and polarity alone, with all. */
  before: Degrees
  delayed: Degrees
  after: Degrees
  /** Largest difference with all, in degrees, and the part of the band (in octaves) within 30°. */
  worst: Degrees
  within: number
  /** What is left at the band's frequencies, in degrees. */
  frequencies: Float64Array
  left: Float64Array
}

/** Phases that agree this well sum to within 0.3 dB of the sum in phase: 20·lg cos 15° (common practice). */
const inPhaseWithin: Degrees = 30
const step: Seconds = 2e-5
const [middles, qs] = [20, [0.4, 0.6, 0.9, 1.4, 2.2]]
/** dB of nothing: degrees RMS that a filter must bring. */
const worth: Degrees = 2
const asDegrees = 180 / Math.PI

interface Turn {
  re: Float64Array
  im: Float64Array
}
/** The moved source's phase against the other's, as a mean of unit arrows over the positions, by their loudness. */
function turnOf({ places, weights, band }: PhaseMatchTask): { frequencies: Float64Array, turn: Turn } {
  const { frequencies, pairs } = pairsIn(places, band)
  const re = new Float64Array(frequencies.length)
  const im = re.slice()
  for (const [n, { reference: r, move: m }] of pairs.entries()) {
    for (let k = 0; k < re.length; k++) {
      const x = r.re[k]! * m.re[k]! + r.im[k]! * m.im[k]!
      const y = r.re[k]! * m.im[k]! - r.im[k]! * m.re[k]!
      const size = Math.hypot(x, y) || 1
      re[k]! += (weights[n]! * x) / size
      im[k]! += (weights[n]! * y) / size
    }
  }
  for (let k = 0; k < re.length; k++) {
    const size = Math.hypot(re[k]!, im[k]!) || 1
    re[k]! /= size
    im[k]! /= size
  }
  return { frequencies, turn: { re, im } }
}

/** Turned on by all-pass filters. */
function through({ re, im }: Turn, filters: readonly PhaseFilter[], frequencies: Float64Array, rate: Hertz): Turn {
  const curve: Curve = { ...unity(frequencies), re: re.slice(), im: im.slice() }
  applySections(curve, filters.map(f => allPass(f.frequency, f.q, rate)), rate)
  return curve
}

interface Best {
  delay: Seconds
  polarity: 1 | -1
  error: Degrees
}
/** What is left between the phases with a delay and a polarity, in degrees. */
const leftAt = ({ re, im }: Turn, frequencies: Float64Array, { delay, polarity }: Omit<Best, 'error'>) =>
  frequencies.map((f, k) => {
    const w = -2 * Math.PI * f * delay
    const x = polarity * (re[k]! * Math.cos(w) - im[k]! * Math.sin(w))
    const y = polarity * (re[k]! * Math.sin(w) + im[k]! * Math.cos(w))
    return Math.atan2(y, x) * asDegrees
  })
const rms = (values: Float64Array) => Math.sqrt(values.reduce((s, v) => s + v * v, 0) / values.length)

/** The delay and polarity with the most agreement. */
function bestDelay(turn: Turn, frequencies: Float64Array, [from, to]: readonly [Seconds, Seconds]): Best {
  const sums = correlate(turn.re, turn.im, frequencies, [from, step, Math.floor((to - from) / step) + 1])
  let at = 0
  sums.forEach((s, k) => {
    if (Math.abs(s) > Math.abs(sums[at]!)) at = k
  })
  const found = { delay: from + at * step, polarity: sums[at]! < 0 ? -1 : 1 } as const
  return { ...found, error: rms(leftAt(turn, frequencies, found)) }
}

/** Moves one filter's numbers while that helps. */
function refine(filters: PhaseFilter[], errorOf: (filters: readonly PhaseFilter[]) => number): PhaseFilter[] {
  let best = filters
  let error = errorOf(best)
  for (const size of [1.15, 1.05, 1.015]) {
    for (let moved = true; moved;) {
      moved = false
      for (const n of best.keys()) {
        for (const [f, q] of [[size, 1], [1 / size, 1], [1, size], [1, 1 / size]] as const) {
          const tried = best.map((x, k) => (k === n ? { frequency: x.frequency * f, q: x.q * q } : x))
          const e = errorOf(tried)
          if (e < error - 0.01 && tried[n]!.q >= 0.3 && tried[n]!.q <= 6) {
            best = tried
            error = e
            moved = true
          }
        }
      }
    }
  }
  return best
}

/**
 * Delay, polarity and all-pass filters that bring one source's phase to another's over a band, the fewest that help:
 * found filter after filter on a grid, then refined. Throws RangeError where there is nothing to compare.
 */
export function matchPhases(wish: PhaseMatchTask): PhaseMatch {
  if (!wish.places.length || !wish.weights.some(w => w > 0)) throw refusal('align.noPositionCounts')
  const { frequencies, turn } = turnOf(wish)
  if (frequencies.length < 8) throw refusal('align.narrow')
  const turned = (filters: readonly PhaseFilter[]) => through(turn, filters, frequencies, wish.sampleRate)
  const bestWith = (filters: readonly PhaseFilter[]) => bestDelay(turned(filters), frequencies, wish.delay)
  const [low, high] = wish.band
  const grid = Array.from({ length: middles }, (_, k) => low * (high / low) ** (k / (middles - 1)))
    .filter(f => f < wish.sampleRate / 2.2)
  let filters: PhaseFilter[] = []
  let best = bestWith(filters)
  const delayed = best.error
  while (filters.length < wish.most) {
    const tried = grid.flatMap(frequency => qs.map(q => [...filters, { frequency, q }]))
    const start = tried.reduce((a, b) => (bestWith(b).error < bestWith(a).error ? b : a))
    const next = refine(start, f => bestWith(f).error)
    const found = bestWith(next)
    if (found.error > best.error - worth) break
    filters = next
    best = found
  }
  const left = leftAt(turned(filters), frequencies, best)
  return {
    delay: Number(best.delay.toFixed(6)),
    polarity: best.polarity,
    filters: filters.map(f => ({ frequency: Number(f.frequency.toFixed(1)), q: Number(f.q.toFixed(2)) })),
    before: rms(leftAt(turn, frequencies, { delay: 0, polarity: 1 })),
    delayed,
    after: best.error,
    worst: left.reduce((m, v) => Math.max(m, Math.abs(v)), 0),
    within: left.filter(v => Math.abs(v) <= inPhaseWithin).length / left.length,
    frequencies,
    left,
  }
}
