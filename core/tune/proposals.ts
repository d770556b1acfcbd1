import { settingsFor, withSettings, type Setting } from './acts'
import { allHeard, figuresOf, reachOf, type Done, type Figures, type Proposal, type TuneJob } from './job'
import { alignSub, timeSource } from './tuneTimes'
import { levelAll, matchMain } from './tuneLevels'
import { shapeSource } from './tuneShape'

const asDone = (proposal: Proposal | null): Done => (proposal ? { proposal } : {})
export interface Tuning {
  proposals: Proposal[]
  notes: string[]
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
  onProgress: (part: number, what: string) => boolean = () => true,
): Tuning {
  const proposals: Proposal[] = []
  const notes: string[] = []
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
      notes.push(`${proposal.title}: ${error.message}`)
    }
  }
  const looks: { what: string, look: () => Done | Proposal[] }[] = [
    ...measured.map(s => ({
      what: `filters for ${s.name}`,
      look: () => asDone(shapeSource(job, s, rig)),
    })),
    ...mains.slice(1).map(s => ({ what: `level of ${s.name}`, look: () => asDone(matchMain(job, s, first!, rig)) })),
    ...mains.slice(1).map(s => ({ what: `time of ${s.name}`, look: () => timeSource(job, s, first!, rig) })),
    ...measured.filter(s => s.role === 'fill' && first).map(s => ({
      what: `time of ${s.name}`,
      look: () => timeSource(job, s, first!, rig),
    })),
    { what: 'levels', look: () => levelAll({ ...job, sources: measured }, rig) },
    // where subs and mains overlap depends on their levels
    ...measured.filter(s => s.role === 'sub' && first).map(s => ({
      what: `sum of ${s.name} and the mains`,
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
      notes.push(`${what}: ${error.message}`)
    }
  }
  const only = { ...job, sources: measured }
  if (!first) notes.push('No mains were measured: nothing can be timed to them.')
  const missed = job.sources.filter(s => !measured.includes(s)).map(s => s.name)
  if (missed.length) notes.push(`Not measured, so left as they are: ${missed.join(', ')}.`)
  const inputs = new Set(measured.flatMap(s => s.takes.flatMap(t => t?.input ?? [])))
  if (inputs.size > 1) {
    notes.push(`Several microphones were used (${[...inputs].join('; ')}), and nothing says that they read `
      + 'alike: levels were compared only between positions of one of them.')
  }
  return {
    proposals,
    notes,
    before: figuresOf(only, allHeard(only, job.rig)),
    after: figuresOf(only, allHeard(only, rig)),
  }
}
