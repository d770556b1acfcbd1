import { applyGainAndDelay, copyOf } from '../dsp'
import type { Rig } from '../rig'
import { ratioOf, showNumber, type Decibels } from '../units'
import {
  allHeard, comparable, heardUnder, levelOf, offTarget, targetThirds, type Proposal, type TuneJob, type TuneSource,
} from './job'
import { sumOf, type Reading } from './readings'
import { spreadOf } from './spread'
import { evenPlace } from './tuneTimes'
import { message } from '../words'

/** Steps that are tried, and how far a level may go from where it stands. */
const step: Decibels = 1
const [lowest, highest]: [Decibels, Decibels] = [-10, 6]
/** Rounds of trying one source after the other. */
const rounds = 2
/** dB off the target and between the positions that each dB of change must buy. */
const worth = 0.02
/** What a change of level must bring at least. */
const leastBought: Decibels = 0.05
/** From the subs up to where the air takes over. */
const range = [40, 10_000] as const
/** Where like loudspeakers are compared. */
const middle = [250, 4000] as const
const alike: Decibels = 0.3

/** One of the mains brought to the level of the first where both are as far away; null where they are alike. */
export function matchMain(job: TuneJob, source: TuneSource, first: TuneSource, rig: Rig): Proposal | null {
  const n = evenPlace(source, first)
  if (n === null) return null
  const [s, r] = [source, first].map(x => levelOf(heardUnder(x.takes[n]!, rig, x.outputs), ...middle))
  const by = Number((r! - s!).toFixed(1))
  if (Math.abs(by) < alike) return null
  return {
    id: `match/${source.id}`,
    source: source.id,
    title: message('tuning.matchTo', { source: source.name, first: first.name }),
    acts: [{ source: source.id, act: { kind: 'gain', by } }],
    reasons: [message(by > 0 ? 'tuning.isQuieter' : 'tuning.isLouder', {
      where: job.positions[n]!.name,
      by: showNumber(Math.abs(by), 1),
    })],
  }
}

const louder = ({ curve, delay }: Reading, by: Decibels): Reading => {
  const next = copyOf(curve)
  applyGainAndDelay(next, ratioOf(by), 0)
  return { curve: next, delay }
}

/**
 * Levels of all but the mains with which every position is nearest to the target and to the others: one source after
 * the other, by whole decibels. The mains are matched to each other (`matchMain`) and stay.
 */
export function levelAll(job: TuneJob, rig: Rig): Proposal[] {
  const heard = allHeard(job, rig)
  const places = comparable(job)
  if (places.length < 2 || job.sources.length < 2) return []
  const weights = places.map(n => job.positions[n]!.weight)
  const wanted = targetThirds(job.sources[0]!.target, range)
  const by = job.sources.map(() => 0)
  const errorWith = (source: number, gain: Decibels) => {
    const curves = places.map(n => sumOf(heard.map((l, s) => louder(l[n]!, s === source ? gain : by[s]!))).curve)
    const { all, levels } = spreadOf(curves, weights, range)
    return all + offTarget(levels, wanted, weights) + worth * Math.abs(gain)
  }
  const first = errorWith(0, 0)
  let last = first
  const bought = by.map(() => 0)
  for (let round = 0; round < rounds; round++) {
    for (let s = 0; s < by.length; s++) {
      if (job.sources[s]!.role === 'main') continue
      const before = by[s]!
      for (let gain = lowest; gain <= highest; gain += step) {
        if (errorWith(s, gain) < errorWith(s, by[s]!) - 1e-6) by[s] = gain
      }
      const error = errorWith(s, by[s]!)
      if (by[s] !== before) bought[s]! += last - error
      last = error
    }
  }
  return job.sources.flatMap((source, s) => by[s] && bought[s]! >= leastBought
    ? [{
      id: `level/${source.id}`,
      source: source.id,
      title: message('tuning.setTheLevelOf', { source: source.name }),
      acts: [{ source: source.id, act: { kind: 'gain', by: by[s]! } }],
      reasons: [message('tuning.offTheTargetAnd', { bought: showNumber(bought[s]!, 2) })],
    } satisfies Proposal]
    : [])
}
