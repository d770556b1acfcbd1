import type { Rig } from '../rig'
import { type Decibels, type Seconds, counted, showDelay, showNumber } from '../units'
import { heardUnder, type TuneJob, type TuneSource } from './job'
import { bestSub, evenPlace, meetingPlace, subScore, subsAndMains } from './tuneTimes'
import { offOwnTarget } from './tuneShape'

export type StepState = 'done' | 'open' | 'stale' | 'skipped'
export type StepKind = 'show' | 'alone' | 'shape' | 'time' | 'sum' | 'together'

/** One step of the job, made from what the rig is. */
export interface RunStep {
  id: string
  kind: StepKind
  source: string
  title: string
  why: string
  /** What the data say of it. */
  told: string
  state: StepState
  /** Positions that it is still about, by their numbers. */
  positions: number[]
}

/** What is known of takes besides what they hold. */
export interface StepFacts {
  /** By source and position: whether cables and places are as they were when it was taken; null: not measured. */
  fresh: Readonly<Record<string, readonly (boolean | null)[]>>
  /** Takes of several sources together, newest first: which, whether it is stale, dB from the prediction. */
  together: readonly { sources: readonly string[], stale: boolean, apart: Decibels | null }[]
  skipped: readonly string[]
  /** Sources that no feed of the console reaches; null where the console has none. */
  unreached: readonly string[] | null
}

/** What is good enough (common practice). */
const enough = {
  /** dB RMS off the target. */
  shape: 3,
  /** Of mains to each other. */
  mains: 2e-4,
  /** What helps the mains may come so much earlier than its wish, and so late altogether. */
  early: 1e-3,
  late: 0.015,
  /** dB under the best sum that could be. */
  sum: 0.3,
  /** dB between predicted and measured. */
  together: 1.5,
} as const

type Told = Pick<RunStep, 'told' | 'state' | 'positions'>
const open = (told: string, positions: number[] = []): Told => ({ told, state: 'open', positions })
const done = (told: string): Told => ({ told, state: 'done', positions: [] })

function aloneStep(job: TuneJob, { id }: TuneSource, { fresh }: StepFacts): Told {
  const weighed = [...job.positions.keys()].filter(n => job.positions[n]!.weight > 0)
  const missing = weighed.filter(n => (fresh[id]?.[n] ?? null) === null)
  const stale = weighed.filter(n => fresh[id]?.[n] === false)
  const names = (list: number[]) => list.map(n => job.positions[n]!.name).join(', ')
  if (!missing.length && !stale.length) return done(`measured at ${counted(weighed.length, 'position')}`)
  if (!missing.length)
    return { told: `cables or places have changed since: ${names(stale)}`, state: 'stale', positions: stale }
  return open(`still to measure: ${names([...missing, ...stale])}`, [...missing, ...stale])
}

function shapeStep(job: TuneJob, source: TuneSource, rig: Rig): Told {
  const off = offOwnTarget(job, source, rig)
  if (off === null) return open('measure it first')
  const told = `${showNumber(off, 1)} dB off its target; ${enough.shape} dB is good enough`
  return off <= enough.shape ? done(told) : open(told)
}

function timeStep(job: TuneJob, source: TuneSource, first: TuneSource, rig: Rig): Told {
  const main = source.role === 'main'
  const n = main ? evenPlace(source, first) : meetingPlace(job, source, first, rig)
  if (n === null) return open('measure both first')
  const [s, r] = [source, first].map(x => heardUnder(x.takes[n]!, rig, x.outputs).arrival)
  const where = job.positions[n]!.name
  if (s === null || r === null || s === undefined || r === undefined)
    return open(`cannot tell when it arrives at ${where}`, [n])
  const apart = s - r
  const told = `at ${where} ${showDelay(Math.abs(apart))} ${apart < 0 ? 'before' : 'after'} ${first.name}`
  const [least, most] = main ? [-enough.mains, enough.mains] : [Math.min(job.later - enough.early, 0), enough.late]
  const isIn = (x: Seconds) => x >= least && x <= most
  return isIn(apart) ? done(told) : open(told, [n])
}

function sumStep(job: TuneJob, sub: TuneSource, mains: readonly TuneSource[], rig: Rig): Told {
  const places = subsAndMains(job, sub, mains, rig)
  if (!places.length) return open('measure subs and mains at the same positions first')
  const now = subScore(places, job.trust)
  const best = now && bestSub(places, job.trust)
  if (!now || !best) return open('they overlap nowhere that is trusted')
  const told = `summation loss ${showNumber(-now.score, 1)} dB; ${showNumber(-best.score, 1)} dB is possible`
  return now.score >= best.score - enough.sum ? done(told) : open(told)
}

function togetherStep(job: TuneJob, { together }: StepFacts): Told {
  const all = job.sources.filter(s => s.role !== 'fill').map(s => s.id)
  const found = together.find(t => all.every(id => t.sources.includes(id)))
  if (!found) return open('play them together and take it')
  if (found.stale) return { told: 'something was set since', state: 'stale', positions: [] }
  if (found.apart === null) return open('a take of each alone is missing to compare it with')
  const told = `${showNumber(found.apart, 1)} dB from the prediction`
  return found.apart <= enough.together ? done(told) : open(`${told}: something is otherwise than the rig says`)
}

/**
 * The steps of the job, made from the rig, each with what the data say of it under a rig. A step is done when they say
 * so; what was skipped stays so until it is done.
 */
export function runSheet(job: TuneJob, rig: Rig, facts: StepFacts): RunStep[] {
  const mains = job.sources.filter(s => s.role === 'main')
  const [first] = mains
  const step = (kind: StepKind, source: TuneSource | null, title: string, why: string, told: Told): RunStep => {
    const id = source ? `${kind}/${source.id}` : kind
    const skipped = told.state !== 'done' && facts.skipped.includes(id)
    return { id, kind, source: source?.id ?? '', title, why, ...told, ...(skipped ? { state: 'skipped' } : {}) }
  }
  const others = first ? job.sources.filter(s => s !== first && s.role !== 'sub') : []
  const { unreached } = facts
  return [
    ...(unreached
      ? [step('show', null, 'Feed every loudspeaker from the console',
          'What no console feed reaches is silent in the show.',
          unreached.length
            ? open(`no console feed reaches ${unreached.join(', ')}`)
            : done('a console feed reaches every loudspeaker'))]
      : []),
    ...job.sources.map(s => step('alone', s, `Measure ${s.name} alone`,
      'Predictions need each source measured alone.', aloneStep(job, s, facts))),
    ...job.sources.map(s => step('shape', s, `Correct ${s.name}`,
      'Correct a source by itself before aligning it with others.', shapeStep(job, s, rig))),
    ...others.map(s => step('time', s, `Time ${s.name} to ${first!.name}`,
      s.role === 'main'
        ? 'Where both are as far away they must arrive at once, or the middle of the hall hears a comb.'
        : `Where it takes over it must come after the mains, by ${showDelay(enough.late)} at most: the ear stays with `
          + 'the stage.',
      timeStep(job, s, first!, rig))),
    ...(first ? job.sources.filter(s => s.role === 'sub') : []).map(s => step('sum', s, `Align ${s.name} to mains`,
      'Where both play, they must add up and not cancel.', sumStep(job, s, mains, rig))),
    ...(job.sources.length > 1
      ? [step('together', null, 'Measure mains and subs together',
          'One take of all proves the prediction from each alone.', togetherStep(job, facts))]
      : []),
  ]
}
