import type { Rig, Then } from '../rig'
import { showDelay, showNumber, type Decibels, type Seconds } from '../units'
import { ownDelay } from './acts'
import { alignVariants, type VariantCandidate } from './bestSum'
import { electronics, heardUnder, levelOf, reachOf, type Done, type Heard, type TuneJob, type TuneSource } from './job'
import { overlapIn, pairsIn, sumOf } from './readings'
import { variantsFor } from './variants'
import { message } from '../words'

/** Least change of a delay that is worth a proposal. */
const least: Seconds = 1e-4
/** By so much may an arrival differ from the plan's before something else is likelier wrong than the tape measure. */
export const planWithin: Seconds = 0.003

const nameOf = (job: TuneJob, n: number) => job.positions[n]!.name

/** By how much later than the plan lets it a source is heard against another; null where either is not told. */
function offPlan(heard: Heard, by: Seconds, other: Heard, otherBy: Seconds, electronics: Seconds): Seconds | null {
  if (heard.arrival === null || other.arrival === null) return null
  return heard.arrival - other.arrival - electronics - (by - otherBy)
}

/** A source brought to another at one position. */
function toAnother(job: TuneJob, source: TuneSource, first: TuneSource, rig: Rig, n: number, later: Seconds): Done {
  const [s, r] = [source, first].map(x => x.takes[n] && heardUnder(x.takes[n]!, rig, x.outputs))
  if (!s || !r || s.arrival === null || r.arrival === null) {
    return { notes: [message('tuning.whenItArrivesCannot', { source: source.name, first: first.name })] }
  }
  const by = r.arrival + later - s.arrival
  if (Math.abs(by) < least) return {}
  const set = ownDelay(reachOf(job, source, rig))
  const where = nameOf(job, n)
  if (set + by < -1e-6) {
    return { notes: [message('tuning.isLateAtAnd', {
      source: source.name,
      by: showDelay(-by),
      where,
      first: first.name,
    })] }
  }
  const wish = later
    ? message('tuning.arriveAfter', { by: showDelay(later), first: first.name })
    : message('tuning.arriveWith', { first: first.name })
  return {
    proposal: {
      id: `time/${source.id}`,
      source: source.id,
      title: message('tuning.timeTo', { name: source.name, first: first.name }),
      acts: [{ source: source.id, act: { kind: 'delay', by } }],
      reasons: [message(s.arrival < r.arrival ? 'tuning.heardBefore' : 'tuning.heardAfter', {
        where,
        by: showDelay(Math.abs(s.arrival - r.arrival)),
        first: first.name,
        wish,
      })],
    },
  }
}

/** Where two like sources are as far away: there the one must be heard with the other. */
export const evenPlace = (a: TuneSource, b: TuneSource): number | null => {
  const both = a.takes.flatMap((t, n) => (t && b.takes[n] ? [n] : []))
  const apart = (n: number) => Math.abs(a.flights[n]! - b.flights[n]!)
  return both.length ? both.reduce((x, n) => (apart(n) < apart(x) ? n : x)) : null
}

/** Where a source is most its own beside another: there the two must agree in time. */
export function meetingPlace(job: TuneJob, source: TuneSource, first: TuneSource, rig: Rig): number | null {
  const both = source.takes.flatMap((t, n) => (t && first.takes[n] ? [n] : []))
  if (!both.length) return null
  const lead = (n: number) => {
    const [s, r] = [source, first].map(x => heardUnder(x.takes[n]!, rig, x.outputs))
    return levelOf(s!, 500, 4000) - levelOf(r!, 500, 4000)
  }
  return both.reduce((x, n) => (lead(n) > lead(x) ? n : x))
}

/** Positions where a source is heard otherwise than the plan lets it be heard, against another. */
export function planDoubts(job: TuneJob, source: TuneSource, first: TuneSource): { position: number, told: string }[] {
  return source.takes.flatMap((t, n) => {
    const other = first.takes[n]
    if (!t || !other) return []
    const electronics = delayThen(t.measured.then, source) - delayThen(other.measured.then, first)
    const off = offPlan(
      { ...t.measured, arrival: t.arrival, unforeseen: [] }, source.flights[n]!,
      { ...other.measured, arrival: other.arrival, unforeseen: [] }, first.flights[n]!, electronics,
    )
    if (off === null || Math.abs(off) < planWithin) return []
    return [{ position: n, told: `${nameOf(job, n)} ${showDelay(off)}` }]
  })
}
const delayThen = ({ rig, from }: Then, { outputs }: TuneSource): Seconds => electronics(rig, from, outputs) ?? 0

export function timeSource(job: TuneJob, source: TuneSource, first: TuneSource, rig: Rig): Done {
  const main = source.role === 'main'
  const n = main ? evenPlace(source, first) : meetingPlace(job, source, first, rig)
  if (n === null) return { notes: [message('tuning.andWereMeasuredTogether', {
    source: source.name,
    first: first.name,
  })] }
  const doubts = planDoubts(job, source, first)
  if (doubts.some(d => d.position === n)) {
    return { notes: [message('tuning.isHeardOtherwiseThan', {
      source: source.name,
      doubts: doubts.map(d => d.told).join(', '),
    })] }
  }
  return toAnother(job, source, first, rig, n, main ? 0 : job.later)
}

/** Search for the sum of subs and mains: how far delays may go, and their step. */
const reach: readonly [Seconds, Seconds] = [-0.025, 0.025]
const step: Seconds = 2e-5

/** dB of the sum in phase that a proposal, or a filter besides the delay, must bring. */
const [worthIt, filterWorth]: [Decibels, Decibels] = [0.2, 0.4]
const filtersTried = {
  corners: [80, 90, 100, 110, 120],
  kinds: [{ family: 'linkwitz-riley', order: 4 }, { family: 'butterworth', order: 4 }],
  allPass: [40, 50, 63, 80, 100, 125],
  q: [0.7, 1.4],
} as const

/** The best without a filter, unless one brings enough more. */
function simplest(candidates: readonly VariantCandidate[]): VariantCandidate | undefined {
  const [best] = candidates
  const plain = candidates.find(c => c.variant === 0)
  return plain && best && best.score - plain.score < filterWorth ? plain : best
}

/** What is heard of subs and of all mains together, where both were measured. */
export function subsAndMains(job: TuneJob, sub: TuneSource, mains: readonly TuneSource[], rig: Rig) {
  const under = (s: TuneSource, n: number) => heardUnder(s.takes[n]!, rig, s.outputs)
  return job.positions.flatMap((position, n) => {
    if (!sub.takes[n] || !mains.every(m => m.takes[n]) || !(position.weight > 0)) return []
    const reference = sumOf(mains.map(m => under(m, n)))
    return [{ reference, move: under(sub, n), apart: null, position }]
  })
}

type Meeting = ReturnType<typeof subsAndMains>
/** A search over what is heard of subs and mains, without filters. */
function searchOf(places: Meeting, trust: number, delay: readonly [Seconds, Seconds], polarity: boolean) {
  const band = overlapIn(places, trust)
  if (!band) return null
  const weights = places.map(p => p.position.weight)
  const { candidates } = alignVariants({ ...pairsIn(places, band), delay, step, polarity, weights }, [{}])
  return candidates[0] ? { band, ...candidates[0] } : null
}
/** How the sum of subs and mains stands against that in phase, by position and as a mean, in dB; null: no overlap. */
export const subScore = (places: Meeting, trust: number) => searchOf(places, trust, [0, step / 2], false)
/** The best that delay and polarity could make of it. */
export const bestSub = (places: Meeting, trust: number) => searchOf(places, trust, reach, true)

/** The delay and polarity of subs with the best sum with all mains; what cannot be taken from them, the others wait. */
export function alignSub(job: TuneJob, sub: TuneSource, mains: readonly TuneSource[], rig: Rig): Done {
  const places = subsAndMains(job, sub, mains, rig)
  if (!places.length) return { notes: [message('tuning.andTheMainsWere', { sub: sub.name })] }
  const band = overlapIn(places, job.trust)
  if (!band) return { notes: [message('tuning.andTheMainsOverlap', { sub: sub.name })] }
  const now = subScore(places, job.trust)
  const parts = pairsIn(places, band)
  const reaches = { move: reachOf(job, sub, rig), reference: reachOf(job, mains[0]!, rig) }
  const variants = variantsFor({ ...filtersTried, both: false }, reaches, parts.frequencies)
  const { candidates } = alignVariants({
    ...parts,
    delay: reach, step, polarity: true,
    weights: places.map(p => p.position.weight),
    names: places.map(p => p.position.name),
  }, variants)
  const best = simplest(candidates)
  if (!best || (now && best.score - now.score < worthIt)) return {}
  const { acts } = variants[best.variant]!
  const set = ownDelay(reachOf(job, sub, rig))
  const short = Math.max(0, -(set + best.delay))
  const wait = job.sources.filter(s => s.role !== 'sub' && short > 1e-6)
  return {
    proposal: {
      id: `sum/${sub.id}`,
      source: sub.id,
      title: message('tuning.alignToMains', { name: sub.name }),
      acts: [
        { source: sub.id, act: { kind: 'delay', by: best.delay + short } },
        ...wait.map(s => ({ source: s.id, act: { kind: 'delay', by: short } }) as const),
        ...acts.map(({ act }) => ({ source: sub.id, act })),
        ...(best.polarity < 0 ? [{ source: sub.id, act: { kind: 'invert' } } as const] : []),
      ],
      reasons: [
        now
          ? message('tuning.summationLossNow', { best: showNumber(-best.score, 1), now: showNumber(-now.score, 1) })
          : message('tuning.summationLossDb', { best: showNumber(-best.score, 1) }),
        ...best.reasons,
      ],
    },
  }
}
