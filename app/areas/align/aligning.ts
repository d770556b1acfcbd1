import { defineStore } from 'pinia'
import type { Position, Source } from '~~/core/documents'
import {
  delaysToMeet, overlapIn, ownDelay, settingsFor, showAct, sumOf, withSettings,
  type Act, type Both, type FilterVariant, type Setting, type VariantCandidate,
} from '~~/core/tune'
import { showDelay } from '~~/core/units'
import { useHeard, type HeardTake } from '~/document/heard'
import { useActs } from '~/document/useActs'
import { useCharts } from '~/charts/useCharts'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { refusal } from '~~/core/words'
import { phrase } from '~/parts/phrase'

/** What is brought to another: a source, or all mains as one. */
export interface Party {
  id: string
  name: string
  hue: number
  members: string[]
}
/** Both at one position. */
interface Place {
  position: Position
  r: HeardTake
  m: HeardTake
}
const partyOf = ({ id, name, hue }: Source): Party => ({ id, name, hue, members: [id] })
/** All mains as one; no source has such a key. */
const allMains = phrase('align.mainsTogether')

/** What several are heard like together at a position; null where one of them, or their common clock, is missing. */
function heardTogether(cells: readonly (HeardTake | null)[]): HeardTake | null {
  const [first] = cells
  const known = cells.filter(c => c !== null)
  if (!first || known.length < cells.length) return null
  if (known.length === 1) return first
  if (known.some(c => c.take.timing.reference !== first.take.timing.reference)) return null
  const arrivals = known.flatMap(c => c.arrival ?? [])
  return {
    take: first.take,
    ...sumOf(known),
    unforeseen: known.flatMap(c => c.unforeseen),
    arrival: arrivals.length ? Math.min(...arrivals) : null,
    reflected: null,
  }
}

/** Sources against each other: when they arrive at every position, and how two of them sum, with the drafts counted. */
export const useAligning = defineStore('aligning', () => {
  const site = useSite()
  const heard = useHeard()
  const charts = useCharts()
  const notices = useNotices()
  const { reachOf, make } = useActs()
  const referenceId = ref<string | null>(null)
  const view = useView()

  const table = computed(() => heard.drafted)
  const known = computed<Party[]>(() => {
    const list = table.value.filter(r => r.cells.some(Boolean)).map(r => r.source)
    const mains = list.filter(s => heard.roles[s.id] === 'main')
    const together = {
      id: allMains,
      name: phrase('align.mainsTogether2'),
      hue: mains[0]?.hue ?? 0,
      members: mains.map(s => s.id),
    }
    return [...list.map(partyOf), ...(mains.length > 1 ? [together] : [])]
  })
  const reference = computed(() => known.value.find(s => s.id === referenceId.value) ?? known.value[0] ?? null)
  /** What can be brought to the reference: not a part of it. */
  const movable = computed(() =>
    known.value.filter(p => !p.members.some(m => reference.value?.members.includes(m))))
  const move = computed(() => movable.value.find(s => s.id === view.aligned) ?? movable.value[0] ?? null)
  function rowOf(party: Party | null): (HeardTake | null)[] {
    const rows = (party?.members ?? []).map(id => table.value.find(r => r.source.id === id)?.cells ?? [])
    return rows.length ? site.positions.map((_, n) => heardTogether(rows.map(cells => cells[n] ?? null))) : []
  }

  const pairNow = computed(() => `${reference.value?.id} ${move.value?.id}`)
  /** Positions where both are heard by one clock; of the same two those of before while their takes are read anew. */
  const heardAt = computed<{ pair: string, places: Place[] }>((before) => {
    const [a, b] = [rowOf(reference.value), rowOf(move.value)]
    const found = site.positions.flatMap((position, n) => {
      const [r, m] = [a[n], b[n]]
      return r && m && r.take.timing.reference === m.take.timing.reference ? [{ position, r, m }] : []
    })
    const isReading = !found.length && !heard.complete
    return isReading && before?.pair === pairNow.value ? before : { pair: pairNow.value, places: found }
  })
  const places = computed(() => heardAt.value.places)
  const flightOf = ({ members }: Party, position: Position) =>
    Math.min(...members.map(id => heard.flight(site.sourceOf(id)!, position)))
  const both = computed(() => places.value.map(({ position, r, m }): Both => ({
    reference: r,
    move: m,
    apart: flightOf(move.value!, position) - flightOf(reference.value!, position),
  })))
  /** Where both are heard about as loud and trusted. */
  const overlap = computed(() => overlapIn(both.value, charts.settings.trust))

  /** What acts set in turn, each on top of those before. */
  function settingsOf(acts: readonly { source: string, act: Act }[]): Setting[] {
    let rig = site.desiredRig
    const all = new Map<string, Setting>()
    for (const { source, act } of acts) {
      const settings = settingsFor(act, { ...reachOf(source), rig })
      for (const s of settings) all.set(`${s.device} ${s.path}`, s)
      rig = withSettings(rig, settings)
    }
    return [...all.values()]
  }
  const toAll = (party: Party, act: Act) => party.members.map(source => ({ source, act }))
  /** The least delay that is set for one of them alone. */
  const delayOf = (party: Party) => Math.min(...party.members.map(id => ownDelay(reachOf(id))))
  /** What a candidate needs of the moved source; what its delay cannot give, the other waits. */
  function actsOf({ delay, polarity, level }: VariantCandidate, variant: FilterVariant | null) {
    const [moved, first] = [move.value!, reference.value!]
    const short = Math.max(0, -(delayOf(moved) + delay))
    const acts: { source: string, act: Act }[] = [
      ...toAll(moved, { kind: 'delay', by: delay + short }),
      ...(short > 1e-6 ? toAll(first, { kind: 'delay', by: short }) : []),
      ...(polarity < 0 ? toAll(moved, { kind: 'invert' }) : []),
      ...(level ? toAll(moved, { kind: 'gain', by: level }) : []),
      ...(variant?.acts ?? []).flatMap(({ of, act }) => toAll(of === 'move' ? moved : first, act)),
    ]
    return { acts, short }
  }
  async function apply(candidate: VariantCandidate, variant: FilterVariant | null) {
    try {
      const { acts, short } = actsOf(candidate, variant)
      const [moved, first] = [move.value!.name, reference.value!.name]
      const turned = candidate.polarity < 0 ? phrase('align.itsPolarityInverted') : ''
      const filter = variant?.name ? `, ${variant.name}` : ''
      const instead = phrase('align.noMoreCanBe', { first, short: showDelay(short) })
      await make(settingsOf(acts), phrase('align.isAlignedTo', {
        moved,
        first,
        delay: showDelay(candidate.delay),
        turned,
        filter,
      })
      + (short > 1e-6 ? instead : ''))
    }
    catch (error) { notices.fail(error) }
  }
  /** When the plan lets the first of a party be heard. */
  function planned({ members }: Party, n: number): number | null {
    const times = members.flatMap((id) => {
      const source = site.sourceOf(id)
      return (source && heard.planned(source, site.positions[n]!)) ?? []
    })
    return times.length ? Math.min(...times) : null
  }
  /** What can be brought together in time: what was measured, and by the plan what was not. */
  const timeable = computed<Party[]>(() => site.sources.map(partyOf))
  const timeReference = computed(() => reference.value ?? timeable.value[0] ?? null)
  const isMeasured = (party: Party) => rowOf(party).some(Boolean)
  /** Arrivals by position: measured, or where nothing was measured of it as far from the reference's as by the plan. */
  function arrivalsOf(party: Party): (number | null)[] {
    const first = timeReference.value!
    const own = rowOf(party)
    return site.positions.map((_, n) => {
      if (isMeasured(party)) return own[n]?.arrival ?? null
      const [mine, its] = [planned(party, n), planned(first, n)]
      if (party === first || mine === null || its === null) return mine
      return (isMeasured(first) ? rowOf(first)[n]?.arrival ?? its : its) + mine - its
    })
  }
  /** Lets sources arrive with the reference, or so much later, over the positions that count. */
  async function together(ids: readonly string[], later: number, weights: readonly number[]) {
    const first = timeReference.value!
    const list = [first, ...timeable.value.filter(p => ids.includes(p.id) && !first.members.includes(p.id))]
    const vague = list.filter(p => arrivalsOf(p).every(t => t === null)).map(s => s.name).join(', ')
    try {
      if (vague)
        throw refusal('align.vague', { sources: vague })
      const by = delaysToMeet(list.map((p, n) => ({
        arrivals: arrivalsOf(p),
        set: delayOf(p),
        later: n ? later : 0,
      })), weights)
      const acts = list.flatMap((p, n) => (by[n] ? toAll(p, { kind: 'delay', by: by[n] }) : []))
      const names = list.slice(1).map(s => s.name).join(', ')
      await make(settingsOf(acts), `${names} ${list.length > 2 ? 'arrive' : 'arrives'} with ${list[0]!.name}`
      + `${later ? `, ${showDelay(later)} later` : ''}.`)
    }
    catch (error) { notices.fail(error) }
  }
  /** Does acts to sources as one step, with words. */
  async function perform(acts: readonly { source: string, act: Act }[], words?: string) {
    try {
      const said = acts.map(({ source, act }) => `${site.sourceOf(source)?.name}: ${showAct(act)}`).join('; ')
      return await make(settingsOf(acts), words ?? `${said}.`)
    }
    catch (error) {
      notices.fail(error)
      return false
    }
  }
  return {
    table, known, movable, timeable, timeReference, isMeasured, reference, move, referenceId, places, both,
    overlap, apply, together, perform, reachOf, toAll,
  }
})
