import { settingsFor, withSettings, type Setting } from './acts'
import { allHeard, figuresOf, reachOf, type Done, type Figures, type Proposal, type TuneJob } from './job'
import { alignSub, timeSource } from './tuneTimes'
import { levelAll, matchMain } from './tuneLevels'
import { shapeSource } from './tuneShape'
import { message, toldOf, type Message } from '../words'

const asDone = (proposal: Proposal | null): Done => (proposal ? { proposal } : {})
export interface Tuning {
  proposals: Proposal[]
  notes: Message[]
  before: Figures | null
  after: Figures | null
}

/**
 * What to set so that proposals are done one after the other, as the last value of each parameter. Throws RangeError
 * with the reason where one cannot be done.
 */
export function settingsOf(job: TuneJob, proposals: readonly Proposal[]): Setting[] {
  const all = new Map<string, Setting>()
  let { rig } = job
  for (const { acts } of proposals) {
    for (const { source, act } of acts) {
      const settings = settingsFor(act, reachOf(job, job.sources.find(s => s.id === source)!, rig))
      for (const s of settings) all.set(`${s.device} ${s.path}`, s)
      rig = withSettings(rig, settings)
    }
  }
  return [...all.values()]
}

/** The whole with some proposals done. Throws as `settingsOf` does. */
export const figuresWith = (job: TuneJob, proposals: readonly Proposal[]): Figures | null =>
  figuresOf(job, allHeard(job, withSettings(job.rig, settingsOf(job, proposals))))

/**
 * Tunes a system from takes of each of its sources alone: filters for each, times, levels, the sum of subs and
 * mains; each on top of those before, none set. `onProgress` is told parts from 0 to
 * 1 and what is looked at, and ends it by giving false: what was found until then is given.
 */
export function proposeAll(
  job: TuneJob,
  onProgress: (part: number, what: Message) => boolean = () => true,
): Tuning {
  const proposals: Proposal[] = []
  const notes: Message[] = []
  let { rig } = job
  const measured = job.sources.filter(s => s.takes.some(Boolean))
  const mains = measured.filter(s => s.role === 'main')
  const [first] = mains
  const take = (proposal: Proposal) => {
    try {
      const next = settingsOf(job, [...proposals, proposal])
      proposals.push(proposal)
      rig = withSettings(job.rig, next)
    }
    catch (error) {
      if (!(error instanceof RangeError)) throw error
      notes.push(message('words.because', { what: proposal.title, why: toldOf(error) }))
    }
  }
  const looks: { what: Message, look: () => Done | Proposal[] }[] = [
    ...measured.map(s => ({
      what: message('tuning.filtersFor', { name: s.name }),
      look: () => asDone(shapeSource(job, s, rig)),
    })),
    ...mains.slice(1).map(s => ({
      what: message('tuning.levelOf', { name: s.name }),
      look: () => asDone(matchMain(job, s, first!, rig)),
    })),
    ...mains.slice(1).map(s => ({
      what: message('tuning.timeOf', { name: s.name }),
      look: () => timeSource(job, s, first!, rig),
    })),
    ...measured.filter(s => s.role === 'fill' && first).map(s => ({
      what: message('tuning.timeOf', { name: s.name }),
      look: () => timeSource(job, s, first!, rig),
    })),
    { what: message('tuning.levels'), look: () => levelAll({ ...job, sources: measured }, rig) },
    // where subs and mains overlap depends on their levels
    ...measured.filter(s => s.role === 'sub' && first).map(s => ({
      what: message('tuning.sumOfAndThe', { name: s.name }),
      look: () => alignSub(job, s, mains, rig),
    })),
  ]
  for (const [n, { what, look }] of looks.entries()) {
    if (!onProgress(n / looks.length, what)) break
    try {
      const found = look()
      if (Array.isArray(found)) for (const p of found) take(p)
      else {
        if (found.proposal) take(found.proposal)
        notes.push(...(found.notes ?? []))
      }
    }
    catch (error) {
      if (!(error instanceof RangeError)) throw error
      notes.push(message('words.because', { what, why: toldOf(error) }))
    }
  }
  const only = { ...job, sources: measured }
  if (!first) notes.push(message('tuning.noMainsWereMeasured'))
  const missed = job.sources.filter(s => !measured.includes(s)).map(s => s.name)
  if (missed.length) notes.push(message('tuning.notMeasuredSoLeft', { missed: missed.join(', ') }))
  const inputs = new Set(measured.flatMap(s => s.takes.flatMap(t => t?.input ?? [])))
  if (inputs.size > 1) {
    notes.push(message('tuning.severalMicrophonesWereUsed', { inputs: [...inputs].join('; ') }))
  }
  return {
    proposals,
    notes,
    before: figuresOf(only, allHeard(only, job.rig)),
    after: figuresOf(only, allHeard(only, rig)),
  }
}
