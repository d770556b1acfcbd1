import { standardGrid } from '../dsp'
import { fractionalOctaves, smooth } from '../measure'
import { predict, routeDelay, routeTo, staleness, type Endpoint, type Measured, type Moved, type Rig } from '../rig'
import type { Decibels, Seconds } from '../units'
import type { Act, Reach } from './acts'
import { inTimeOf, sumOf, type Reading } from './readings'
import { levelsIn, spreadOf, spreadRange } from './spread'
import type { Message } from '../words'

/** What a source is for: what carries the hall, what goes below it, what helps where that does not reach. */
export type Role = 'main' | 'sub' | 'fill'

/** A take of a source alone, with when it arrived; null where that could not be told. */
export interface TuneTake {
  measured: Measured
  arrival: Seconds | null
  /** Which microphone heard it: levels of different ones are not compared, as nothing says that they are alike. */
  input: string
}
export interface TuneSource {
  id: string
  name: string
  role: Role
  outputs: readonly Endpoint[]
  /** By position; null: not measured there. */
  takes: readonly (TuneTake | null)[]
  /** Time of flight by the plan, by position. */
  flights: readonly Seconds[]
  /** What it aims for, in dB on the standard grid. */
  target: ArrayLike<Decibels>
}
/** A system that is to be tuned, with what was measured of it. */
export interface TuneJob {
  rig: Rig
  from: Endpoint
  positions: readonly { name: string, weight: number }[]
  sources: readonly TuneSource[]
  /** Least coherence that is trusted. */
  trust: number
  /** So much later than the mains those are to be heard that help them. */
  later: Seconds
}

/** What a source is heard like at a position under a rig. */
export interface Heard extends Reading {
  arrival: Seconds | null
  /** Edits that a prediction leaves out. */
  unforeseen: Moved[]
}

/** Delay of the electronics to the first of some outputs. */
export const electronics = (rig: Rig, from: Endpoint, outputs: readonly Endpoint[]): Seconds | null => {
  const delays = outputs.flatMap((to) => {
    const route = routeTo(rig, from, to)
    return route ? [routeDelay(rig, route)] : []
  })
  return delays.length ? Math.min(...delays) : null
}

/** By how much later a source is heard by a rig than when a take was made. */
export function arrivalShift({ then }: Measured, rig: Rig, outputs: readonly Endpoint[]): Seconds {
  const [was, is] = [electronics(then.rig, then.from, outputs), electronics(rig, then.from, outputs)]
  return was === null || is === null ? 0 : is - was
}

export function heardUnder({ measured, arrival }: TuneTake, rig: Rig, outputs: readonly Endpoint[]): Heard {
  const { then, source, only, curve, delay } = measured
  const { settings } = staleness(then, rig, source, only)
  const predicted = settings.length ? predict(measured, rig, settings) : { curve, unforeseen: [] }
  return {
    ...predicted,
    delay,
    arrival: arrival === null ? null : arrival + arrivalShift(measured, rig, outputs),
  }
}

/** A source of a job in a rig, as acts take it. */
export const reachOf = ({ from, sources }: TuneJob, source: TuneSource, rig: Rig): Reach => ({
  rig,
  from,
  name: source.name,
  outputs: source.outputs,
  others: sources.filter(s => s.id !== source.id).flatMap(s => s.outputs),
})

/** Everything as a rig will have it, by source and position. */
export const allHeard = (job: TuneJob, rig: Rig): (Heard | null)[][] =>
  job.sources.map(s => s.takes.map(t => t && heardUnder(t, rig, s.outputs)))

/** Over so many parts of an octave the room is left out: what comes later turns faster over frequency than that. */
const early = 6

/**
 * What comes first of what is heard: complex smoothing by the arrival's own time is a window that is as long as a few
 * periods of each frequency. As it is where no arrival is known.
 */
export const earlyOf = (heard: Heard): Reading => (heard.arrival === null
  ? heard
  : { curve: smooth(inTimeOf(heard, heard.arrival), early, undefined, true), delay: heard.arrival })

/** Something that could be set, and why. */
export interface Proposal {
  id: string
  source: string
  title: Message
  acts: { source: string, act: Act }[]
  reasons: Message[]
}
/** What came of looking at one thing. */
export interface Done {
  proposal?: Proposal
  /** What a person must look at. */
  notes?: Message[]
}

/** How even a system is, over the positions and over frequency. */
export interface Figures {
  /** RMS over thirds of an octave of what the positions differ, in dB. */
  between: Decibels
  /** RMS of what every position is off the target, whatever its level, in dB. */
  off: Decibels
}

/** The target's level in thirds of an octave. */
export function targetThirds(target: ArrayLike<Decibels>, range = spreadRange): Decibels[] {
  return fractionalOctaves(3, ...range).map(({ low, high }) => {
    const inside = [...standardGrid.keys()].filter(k => standardGrid[k]! >= low && standardGrid[k]! < high)
    return inside.reduce((s, k) => s + target[k]!, 0) / inside.length
  })
}

/** RMS of levels off a target by position and band; one level for all of them is free. */
export function offTarget(levels: readonly Decibels[][], wanted: readonly Decibels[], weights: readonly number[]) {
  const all = weights.reduce((s, w) => s + w, 0) * wanted.length
  const each = levels.flatMap((list, n) => list.map((l, b) => ({ off: l - wanted[b]!, weight: weights[n]! / all })))
  const mean = each.reduce((s, { off, weight }) => s + weight * off, 0)
  return Math.sqrt(each.reduce((s, { off, weight }) => s + weight * (off - mean) ** 2, 0))
}

/**
 * Positions where every source was measured, by one microphone: levels of different ones tell nothing against each
 * other. Of several microphones the one that heard most is taken.
 */
export function comparable(job: TuneJob): number[] {
  const all = [...job.positions.keys()].filter(n => job.sources.every(s => s.takes[n]) && job.positions[n]!.weight > 0)
  const byInput = new Map<string, number[]>()
  for (const n of all) {
    const inputs = [...new Set(job.sources.map(s => s.takes[n]!.input))]
    if (inputs.length === 1) byInput.set(inputs[0]!, [...(byInput.get(inputs[0]!) ?? []), n])
  }
  return [...byInput.values()].reduce<number[]>((most, list) => (list.length > most.length ? list : most), [])
}

/** The whole at the positions that can be compared. Null where there is none. */
export function figuresOf(job: TuneJob, heard: readonly (readonly (Reading | null)[])[]): Figures | null {
  const places = comparable(job)
  const weights = places.map(n => job.positions[n]!.weight)
  const [first] = job.sources
  if (!first || !weights.some(w => w > 0)) return null
  const { all, levels } = spreadOf(places.map(n => sumOf(heard.map(list => list[n]!)).curve), weights)
  return { between: all, off: offTarget(levels, targetThirds(first.target), weights) }
}

/** Mean level of a reading in a band. */
export const levelOf = ({ curve }: Reading, low: number, high: number): Decibels =>
  levelsIn(curve, [{ low, high }])[0]!
