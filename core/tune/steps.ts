import type { Rig } from '../rig'
import { type Decibels, type Seconds, showDelay, showNumber } from '../units'
import { heardUnder, type TuneJob, type TuneSource } from './job'
import { bestSub, evenPlace, meetingPlace, subScore, subsAndMains } from './tuneTimes'
import { offOwnTarget } from './tuneShape'
import { message, type Message } from '../words'

export type StepState = 'done' | 'open' | 'stale' | 'skipped'
export type StepKind = 'show' | 'alone' | 'shape' | 'time' | 'sum' | 'together'

/** One step of the job, made from what the rig is. */
export interface RunStep {
  id: string
  kind: StepKind
  source: string
  title: Message
  why: Message
  /** What the data say of it. */
  told: Message
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
const open = (told: Message, positions: number[] = []): Told => ({ told, state: 'open', positions })
const done = (told: Message): Told => ({ told, state: 'done', positions: [] })

function aloneStep(job: TuneJob, { id }: TuneSource, { fresh }: StepFacts): Told {
  const weighed = [...job.positions.keys()].filter(n => job.positions[n]!.weight > 0)
  const missing = weighed.filter(n => (fresh[id]?.[n] ?? null) === null)
  const stale = weighed.filter(n => fresh[id]?.[n] === false)
  const names = (list: number[]) => list.map(n => job.positions[n]!.name).join(', ')
  if (!missing.length && !stale.length) return done(message('tuning.measuredAtPosition', { weighed: weighed.length }))
  if (!missing.length)
    return { told: message('tuning.cablesOrPlacesHave', { stale: names(stale) }), state: 'stale', positions: stale }
  return open(message('tuning.stillToMeasure', { places: names([...missing, ...stale]) }), [...missing, ...stale])
}

function shapeStep(job: TuneJob, source: TuneSource, rig: Rig): Told {
  const off = offOwnTarget(job, source, rig)
  if (off === null) return open(message('tuning.measureItFirst'))
  const told = message('tuning.dbOffItsTarget', { off: showNumber(off, 1), shape: enough.shape })
  return off <= enough.shape ? done(told) : open(told)
}

function timeStep(job: TuneJob, source: TuneSource, first: TuneSource, rig: Rig): Told {
  const main = source.role === 'main'
  const n = main ? evenPlace(source, first) : meetingPlace(job, source, first, rig)
  if (n === null) return open(message('tuning.measureBothFirst'))
  const [s, r] = [source, first].map(x => heardUnder(x.takes[n]!, rig, x.outputs).arrival)
  const where = job.positions[n]!.name
  if (s === null || r === null || s === undefined || r === undefined)
    return open(message('tuning.cannotTellWhenIt', { where }), [n])
  const apart = s - r
  const told = message(apart < 0 ? 'tuning.isBefore' : 'tuning.isAfter', {
    where,
    by: showDelay(Math.abs(apart)),
    first: first.name,
  })
  const [least, most] = main ? [-enough.mains, enough.mains] : [Math.min(job.later - enough.early, 0), enough.late]
  const isIn = (x: Seconds) => x >= least && x <= most
  return isIn(apart) ? done(told) : open(told, [n])
}

function sumStep(job: TuneJob, sub: TuneSource, mains: readonly TuneSource[], rig: Rig): Told {
  const places = subsAndMains(job, sub, mains, rig)
  if (!places.length) return open(message('tuning.measureSubsAndMains'))
  const now = subScore(places, job.trust)
  const best = now && bestSub(places, job.trust)
  if (!now || !best) return open(message('tuning.theyOverlapNowhereThat'))
  const told = message('tuning.summationLossDbDb', {
    now: showNumber(-now.score, 1),
    best: showNumber(-best.score, 1),
  })
  return now.score >= best.score - enough.sum ? done(told) : open(told)
}

function togetherStep(job: TuneJob, { together }: StepFacts): Told {
  const all = job.sources.filter(s => s.role !== 'fill').map(s => s.id)
  const found = together.find(t => all.every(id => t.sources.includes(id)))
  if (!found) return open(message('tuning.playThemTogetherAnd'))
  if (found.stale) return { told: message('tuning.somethingWasSetSince'), state: 'stale', positions: [] }
  if (found.apart === null) return open(message('tuning.aTakeOfEach'))
  const told = message('tuning.dbFromThePrediction', { apart: showNumber(found.apart, 1) })
  return found.apart <= enough.together ? done(told) : open(message('tuning.somethingIsOtherwiseThan', { told }))
}

/**
 * The steps of the job, made from the rig, each with what the data say of it under a rig. A step is done when they say
 * so; what was skipped stays so until it is done.
 */
export function runSheet(job: TuneJob, rig: Rig, facts: StepFacts): RunStep[] {
  const mains = job.sources.filter(s => s.role === 'main')
  const [first] = mains
  const step = (kind: StepKind, source: TuneSource | null, title: Message, why: Message, told: Told): RunStep => {
    const id = source ? `${kind}/${source.id}` : kind
    const skipped = told.state !== 'done' && facts.skipped.includes(id)
    return { id, kind, source: source?.id ?? '', title, why, ...told, ...(skipped ? { state: 'skipped' } : {}) }
  }
  const others = first ? job.sources.filter(s => s !== first && s.role !== 'sub') : []
  const { unreached } = facts
  return [
    ...(unreached
      ? [step('show', null, message('tuning.feedEveryLoudspeakerFrom'),
          message('tuning.whatNoConsoleFeed'),
          unreached.length
            ? open(message('tuning.noConsoleFeedReaches', { unreached: unreached.join(', ') }))
            : done(message('tuning.aConsoleFeedReaches')))]
      : []),
    ...job.sources.map(s => step('alone', s, message('tuning.measureAlone', { name: s.name }),
      message('tuning.predictionsNeedEachSource'), aloneStep(job, s, facts))),
    ...job.sources.map(s => step('shape', s, message('tuning.correct', { name: s.name }),
      message('tuning.correctASourceBy'), shapeStep(job, s, rig))),
    ...others.map(s => step('time', s, message('tuning.timeTo', { name: s.name, first: first!.name }),
      s.role === 'main'
        ? message('tuning.whereBothAreAs')
        : message('tuning.whereItTakesOver', { late: showDelay(enough.late) }),
      timeStep(job, s, first!, rig))),
    ...(first ? job.sources.filter(s => s.role === 'sub') : []).map(s => step('sum', s,
      message('tuning.alignToMains', { name: s.name }),
      message('tuning.whereBothPlayThey'), sumStep(job, s, mains, rig))),
    ...(job.sources.length > 1
      ? [step('together', null, message('tuning.measureMainsAndSubs'),
          message('tuning.oneTakeOfAll'), togetherStep(job, facts))]
      : []),
  ]
}
