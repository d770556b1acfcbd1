import { useDebounceFn, useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { cosineTo, distance, flightTime } from '~~/core/acoustics'
import {
  arrivedAt, isCombined, rolesOf, soundedIn, unreachedInShow, type Position, type Source, type Take,
} from '~~/core/documents'
import { standardGrid, type Curve } from '~~/core/dsp'
import { routeSounds, routeTo, testFeed } from '~~/core/rig'
import { useChartSettings } from '~/document/chartSettings'
import { useTargets } from './targets'
import {
  arrivalShift, electronics, isReflected, usualOff, type Heard, type Placed, type StepFacts, type TuneJob,
  type TuneTake,
} from '~~/core/tune'
import type { Seconds } from '~~/core/units'
import { useSite } from './site'
import { useTakes } from './takes'

/** Milliseconds that changes rest before the way of the show is looked at again. */
const rest = 700

/** What a source reads at a position, as the drafts will have it. */
export interface HeardTake extends Heard {
  take: Take
  /** A time that was found and is likelier a reflection's: `arrival` is null then. */
  reflected: Seconds | null
}

/** What every source is heard like alone at every position, and the whole job as computations take it. */
export const useHeard = defineStore('heard', () => {
  const site = useSite()
  const takes = useTakes()
  const charts = useChartSettings()
  const targets = useTargets()
  const from = computed(() => site.feedFrom(testFeed))
  const roles = computed(() => rolesOf(site.sources, site.sheets, site.areas))

  /** Whether the signal reached a take's own source when it was made: else it holds another one's sound. */
  function sounded(t: Take): boolean {
    const then = takes.thenOf(t)
    return !then || site.outputs(t.source).some((to) => {
      const route = routeTo(then.rig, then.from, to)
      return route !== null && routeSounds(then.rig, route)
    })
  }
  /** The newest take of all of a source here and nothing else, by the clock of its reference. */
  const newestAt = (source: string, position: string) => {
    const take = takes.aloneAt(source, position)
    return take && sounded(take) ? take : undefined
  }
  /** The same where cables and places are still as they were: what no prediction mends is not summed. */
  const takeOf = (source: string, position: string) => {
    const take = newestAt(source, position)
    return take && !takes.outdated(take) ? take : undefined
  }
  /** What was found of a source's time at a position against the plan; null where either is not known. */
  function placedAt(source: Source, position: Position): Placed | null {
    const take = newestAt(source.id, position.id)
    const found = take && take.arrival === undefined ? arrivedAt(take) : null
    const then = take && takes.thenOf(take)
    const plays = then && electronics(then.rig, then.from, site.outputs(source.id))
    if (found === null || plays === null || plays === undefined) return null
    const near = source.elements.reduce((a, b) =>
      (distance(b.place, position.place) < distance(a.place, position.place) ? b : a))
    return {
      off: found - plays - flight(source, position),
      cosine: roles.value[source.id] === 'sub' ? null : cosineTo(near.aim, near.place, position.place),
    }
  }
  const placed = computed(() => new Map(site.sources.map(s =>
    [s.id, new Map(site.positions.map(p => [p.id, placedAt(s, p)]))])))
  const allPlaced = computed(() => [...placed.value.values()].flatMap(at => [...at.values()].flatMap(p => p ?? [])))
  const usual = computed(() => usualOff(allPlaced.value))
  /** Whether what was found of a source at a position is likelier a reflection. */
  const isAsideAt = (source: Source, position: Position) => {
    const at = placed.value.get(source.id)?.get(position.id)
    return !!at && isReflected(at, usual.value)
  }
  function under(source: Source, position: Position, which: 'held' | 'draft'): HeardTake | null {
    const take = takeOf(source.id, position.id)
    const drafted = take && takes.asUnder(take, which)
    const then = take && takes.thenOf(take)
    if (!take || !drafted || !then) return null
    const { curve, unforeseen } = drafted
    const { delay } = take.timing
    const found = arrivedAt(take)
    const rig = which === 'held' ? site.confirmedRig : site.desiredRig
    const measured = { curve, delay, then, source: source.id, only: null }
    const arrival = found === null ? null : found + arrivalShift(measured, rig, site.outputs(source.id))
    const isAside = isAsideAt(source, position)
    return {
      take, curve, delay, unforeseen, arrival: isAside ? null : arrival, reflected: isAside ? arrival : null,
    }
  }
  const tableOf = (which: 'held' | 'draft') => site.sources.map(source => ({
    source,
    cells: site.positions.map(position => under(source, position, which)),
  }))
  const drafted = computed(() => tableOf('draft'))

  /** Time of flight by the plan, from the nearest cabinet. */
  const flight = (source: Source, position: Position) =>
    flightTime(source.elements.map(e => e.place), position.place, site.plan.air)
  /** When the plan lets a source arrive, drafts counted. */
  function planned(source: Source, position: Position): number | null {
    const delay = from.value ? electronics(site.desiredRig, from.value, site.outputs(source.id)) : null
    return delay === null ? null : delay + flight(source, position)
  }

  /** So much later than the mains those are to be heard that help them. */
  const later = useLocalStorage('kovrin-later', 0.005)
  const tuneTake = (source: Source, position: Position): TuneTake | null => {
    const take = takeOf(source.id, position.id)
    if (!take) return null
    takes.loadLater(take.id)
    const [curve, then] = [takes.curveOf(take.id), takes.thenOf(take)]
    if (!curve || !then) return null
    const measured = { curve, delay: take.timing.delay, then, source: source.id, only: null }
    return { measured, arrival: isAsideAt(source, position) ? null : arrivedAt(take), input: take.info.input }
  }
  /** What of the job no edit of a draft changes: it is made of every cell. */
  const parts = computed(() => ({
    positions: site.positions.map(({ name, weight }) => ({ name, weight })),
    sources: site.sources.map(s => ({
      id: s.id,
      name: s.name,
      role: roles.value[s.id]!,
      outputs: site.outputs(s.id),
      takes: site.positions.map(p => tuneTake(s, p)),
      flights: site.positions.map(p => flight(s, p)),
      target: targetOf(s),
    })),
  }))
  /** The whole job under the drafts; null while no signal can come in. */
  const job = computed<TuneJob | null>(() => from.value
    ? {
        rig: site.desiredRig,
        from: from.value,
        trust: charts.settings.trust,
        later: later.value,
        ...parts.value,
      }
    : null)
  const grid = [...standardGrid]
  const targetOf = (s: Source) => grid.map(targets.levelFor(s))
  /** Whether cables and places are still as they were when a cell was taken. */
  function freshAt(source: Source, position: Position): boolean | null {
    const take = newestAt(source.id, position.id)
    return take ? !takes.outdated(take) : null
  }
  /** Looked at again when devices or wiring rest: it is a response along every feed to every loudspeaker. */
  const unreached = shallowRef<string[] | null>(null)
  const lookAtShow = useDebounceFn(() => {
    if (site.open) unreached.value = unreachedInShow(site.documents)
  }, rest)
  site.onHeld(lookAtShow)
  site.onPlan(lookAtShow)
  watch(() => site.open?.id, lookAtShow, { immediate: true })
  const facts = computed<StepFacts>(() => ({
    fresh: Object.fromEntries(site.sources.map(s => [s.id, site.positions.map(p => freshAt(s, p))])),
    together: takes.all.filter(isCombined).toReversed().map(t => ({
      sources: soundedIn(t),
      stale: Boolean(takes.stale[t.id]?.length),
      apart: apartOf(t),
    })),
    skipped: site.info?.skipped ?? [],
    unreached: unreached.value,
  }))
  /** How far a take of several lies from what was foreseen of each alone. */
  function apartOf(t: Take): number | null {
    takes.loadLater(t.id)
    const curve: Curve | null = takes.curveOf(t.id)
    return curve && !takes.stale[t.id]?.length ? takes.sumApart(t, curve) : null
  }
  /** Everything that was measured of every source alone is here. */
  const complete = computed(() => site.sources.every(s => site.positions.every((p) => {
    const take = takeOf(s.id, p.id)
    if (!take) return true
    takes.loadLater(take.id)
    return takes.curveOf(take.id) !== null && takes.thenOf(take) !== undefined
  })))
  return { complete, takeOf, under, drafted, roles, planned, flight, later, job, facts, apartOf }
})
