import { applySections, copyOf, highShelf, type Curve } from '../dsp'
import { fractionalOctaves } from '../measure'
import { ratioOf, type Decibels, type Hertz, type Seconds } from '../units'
import { sumOf, type Reading } from './readings'
import { levelsIn } from './spread'
import { refusal } from '../words'

/** A part of a column, or any source that serves some of the places: what it reads at every place, front to back. */
export type Zone = readonly Reading[]

export interface ShadeTask {
  zones: readonly Zone[]
  weights: readonly number[]
  /** dB by which the last place may be softer than the first, straight over the places between. */
  fall: Decibels
  sampleRate: Hertz
  /** dB that a zone may be changed by, and its high-shelf. */
  gain: readonly [Decibels, Decibels]
  shelf: readonly [Decibels, Decibels]
}
export interface Shade {
  /** By zone. */
  gains: Decibels[]
  shelves: Decibels[]
  /** RMS of what the places are off the wished fall, over thirds of an octave, before and after. */
  before: Decibels
  after: Decibels
  /** Mean level of each place after, dB against the first. */
  levels: Decibels[]
}

/** Where evenness is looked at, and where a zone's high-shelf begins. */
const range: readonly [Hertz, Hertz] = [250, 10_000]
export const shelfAt: Hertz = 4000
export const shelfQ = 0.7
const step: Decibels = 0.5
const rounds = 4

/** A zone's reading with a gain and a high-shelf. */
function shaded({ curve, delay }: Reading, gain: Decibels, shelf: Decibels, rate: Hertz): Reading {
  const next: Curve = copyOf(curve)
  const g = ratioOf(gain)
  for (let k = 0; k < next.re.length; k++) {
    next.re[k]! *= g
    next.im[k]! *= g
  }
  if (shelf) applySections(next, [highShelf(shelfAt, shelf, shelfQ, rate)], rate)
  return { curve: next, delay }
}

/**
 * Gains and high-shelf steps of zones with which places from front to back come nearest to a wished fall: one number
 * after the other, in steps of 0.5 dB. Throws RangeError where zones and places do not fit.
 */
export function shadeZones({ zones, weights, fall, sampleRate, gain, shelf }: ShadeTask): Shade {
  const places = zones[0]?.length ?? 0
  if (!places || zones.some(z => z.length !== places) || weights.length !== places)
    throw refusal('levels.readings')
  const all = weights.reduce((s, w) => s + w, 0)
  if (!(all > 0)) throw refusal('levels.noPlace')
  const bands = fractionalOctaves(3, ...range)
  const numbers = { gains: zones.map(() => 0), shelves: zones.map(() => 0) }
  const wished = (n: number) => (places > 1 ? (-fall * n) / (places - 1) : 0)
  const levelsNow = () => weights.map((_, n) => levelsIn(
    sumOf(zones.map((z, k) => shaded(z[n]!, numbers.gains[k]!, numbers.shelves[k]!, sampleRate))).curve, bands))
  const error = () => {
    const levels = levelsNow()
    const sum = bands.reduce((s, _, b) => {
      const off = levels.map((l, n) => l[b]! - wished(n))
      const mean = off.reduce((m, v, n) => m + (weights[n]! / all) * v, 0)
      return s + off.reduce((m, v, n) => m + (weights[n]! / all) * (v - mean) ** 2, 0)
    }, 0)
    return Math.sqrt(sum / bands.length)
  }
  const before = error()
  let best = before
  const better = (list: Decibels[], k: number, [low, high]: readonly [Decibels, Decibels]) => {
    let kept = list[k]!
    for (let v = low; v <= high + 1e-9; v += step) {
      list[k] = v
      const e = error()
      if (e < best - 1e-4) [best, kept] = [e, v]
    }
    list[k] = kept
  }
  for (let round = 0; round < rounds; round++) {
    const was = best
    for (const k of zones.keys()) {
      better(numbers.gains, k, gain)
      better(numbers.shelves, k, shelf)
    }
    if (was - best < 0.01) break
  }
  const mean = levelsNow().map(l => 10 * Math.log10(l.reduce((s, v) => s + 10 ** (v / 10), 0) / l.length))
  return { ...numbers, before, after: best, levels: mean.map(v => v - mean[0]!) }
}

/** A loudspeaker of a multi-channel room as it is heard, or would be by the plan, at the listening place. */
export interface Channel {
  arrival: Seconds
  level: Decibels
}
/**
 * By how much each loudspeaker must come later and be softer so that all arrive at once and equally loud at the
 * listening place: at the time of the last, at the level of the softest. Nothing is made louder.
 */
export function trimToCommon(channels: readonly Channel[]): { delay: Seconds, by: Decibels }[] {
  const last = Math.max(...channels.map(c => c.arrival))
  const softest = Math.min(...channels.map(c => c.level))
  return channels.map(c => ({ delay: last - c.arrival, by: softest - c.level }))
}
