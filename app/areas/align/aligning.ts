import { defineStore } from 'pinia'
import type { Source } from '~~/core/documents'
import {
  bringTogether, overlapIn, ownDelay, settingsFor, showAct, withSettings,
  type Act, type Both, type FilterVariant, type Setting, type VariantCandidate,
} from '~~/core/tune'
import { showDelay } from '~~/core/units'
import { useActs } from '~/document/useActs'

/** Sources against each other: when they arrive at every position, and how two of them sum, with the drafts counted. */
export const useAligning = defineStore('aligning', () => {
  const site = useSite()
  const heard = useHeard()
  const charts = useCharts()
  const notices = useNotices()
  const { reachOf, make } = useActs()
  const referenceId = ref<string | null>(null)
  const moveId = ref<string | null>(null)

  const table = computed(() => heard.drafted)
  const known = computed(() => table.value.filter(r => r.cells.some(Boolean)).map(r => r.source))
  const reference = computed(() => known.value.find(s => s.id === referenceId.value) ?? known.value[0] ?? null)
  const move = computed(() =>
    known.value.find(s => s.id === moveId.value && s !== reference.value)
    ?? known.value.find(s => s !== reference.value) ?? null)
  const rowOf = (source: Source | null) => table.value.find(r => r.source.id === source?.id)?.cells ?? []

  /** Positions where both are heard by one clock. */
  const places = computed(() => {
    const [a, b] = [rowOf(reference.value), rowOf(move.value)]
    return site.positions.flatMap((position, n) => {
      const [r, m] = [a[n], b[n]]
      return r && m && r.take.timing.reference === m.take.timing.reference ? [{ position, r, m }] : []
    })
  })
  const both = computed(() => places.value.map(({ r, m }): Both => ({
    reference: r,
    move: m,
    apart: m.arrival !== null && r.arrival !== null ? m.arrival - r.arrival : null,
  })))
  /** Where both are heard about as loud and trusted. */
  const overlap = computed(() => overlapIn(both.value, charts.settings.trust))

  /** What acts set in turn, each on top of those before. */
  function settingsOf(acts: readonly { source: string, act: Act }[]): Setting[] {
    let rig = site.draftRig
    const all = new Map<string, Setting>()
    for (const { source, act } of acts) {
      const settings = settingsFor(act, { ...reachOf(source), rig })
      for (const s of settings) all.set(`${s.device} ${s.path}`, s)
      rig = withSettings(rig, settings)
    }
    return [...all.values()]
  }
  /** What a candidate needs of the moved source; what its delay cannot give, the other waits. */
  function actsOf({ delay, polarity, level }: VariantCandidate, variant: FilterVariant | null) {
    const [moved, first] = [move.value!, reference.value!]
    const short = Math.max(0, -(ownDelay(reachOf(moved.id)) + delay))
    const acts: { source: string, act: Act }[] = [
      { source: moved.id, act: { kind: 'later', by: delay + short } },
      ...(short > 1e-6 ? [{ source: first.id, act: { kind: 'later', by: short } } as const] : []),
      ...(polarity < 0 ? [{ source: moved.id, act: { kind: 'turn' } } as const] : []),
      ...(level ? [{ source: moved.id, act: { kind: 'louder', by: level } } as const] : []),
      ...(variant?.acts ?? []).map(({ of, act }) => ({ source: of === 'move' ? moved.id : first.id, act })),
    ]
    return { acts, short }
  }
  async function apply(candidate: VariantCandidate, variant: FilterVariant | null) {
    try {
      const { acts, short } = actsOf(candidate, variant)
      const [moved, first] = [move.value!.name, reference.value!.name]
      const turned = candidate.polarity < 0 ? ', its polarity turned' : ''
      const filter = variant?.name ? `, ${variant.name}` : ''
      const instead = ` No more can be taken from it: ${first} is delayed by ${showDelay(short)} instead, and what was `
        + 'aligned to that must follow.'
      await make(settingsOf(acts), `${moved} is brought to ${first}: ${showDelay(candidate.delay)}${turned}${filter}.`
      + (short > 1e-6 ? instead : ''))
    }
    catch (error) { notices.fail(error) }
  }
  const isVague = (s: Source) => rowOf(s).every(c => (c?.arrival ?? null) === null)
  /** Lets sources arrive with the reference, or so much later, over the positions that count. */
  async function together(ids: readonly string[], later: number, weights: readonly number[]) {
    const list = [reference.value!, ...known.value.filter(s => ids.includes(s.id) && s !== reference.value)]
    const vague = list.filter(isVague).map(s => s.name).join(', ')
    try {
      if (vague)
        throw new RangeError(`${vague}: no sharp start is heard, so no arrival can be told. Find the best sum instead.`)
      const by = bringTogether(list.map((s, n) => ({
        arrivals: rowOf(s).map(c => c?.arrival ?? null),
        set: ownDelay(reachOf(s.id)),
        later: n ? later : 0,
      })), weights)
      const acts = list.flatMap((s, n) => (by[n] ? [{ source: s.id, act: { kind: 'later', by: by[n] } as const }] : []))
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
    table, known, reference, move, referenceId, moveId, places, both, overlap, apply, together, perform, reachOf,
  }
})
