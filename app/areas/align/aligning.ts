import { defineStore } from 'pinia'
import { applyGainAndDelay, copyOf, standardGrid, type Curve } from '~~/core/dsp'
import { tellsCell, type Source, type Take } from '~~/core/documents'
import { trusted } from '~~/core/measure'
import {
  louderBy, moveInTime, ownDelays, parametersIn, routeDelay, routeSounds, routeTo, testFeed, valueOf,
  type OwnDelay,
} from '~~/core/rig'
import { bringTogether, overlapOf, type AlignCandidate, type Pair } from '~~/core/tune'
import { showDelay } from '~~/core/units'

/** What a source reads at a position, as the drafts will have it. */
export interface Heard {
  take: Take
  /** When it arrives, electronics and drafts counted; null where its impulse has no sharp start, as of subs. */
  arrival: number | null
  curve: Curve
  /** Delay that was taken out of the curve's phase. */
  delay: number
  inPart: boolean
}
interface Setting {
  device: string
  path: string
  value: unknown
}

/** Sources against each other: when they arrive at every position, and how they sum, with the drafts counted. */
export const useAligning = defineStore('aligning', () => {
  const site = useSite()
  const takes = useTakes()
  const charts = useCharts()
  const notices = useNotices()
  const agreement = useAgreement()
  const referenceId = ref<string | null>(null)
  const moveId = ref<string | null>(null)
  const from = computed(() => site.feedFrom(testFeed))

  /** Whether the signal reached a take's own source when it was made: else it holds another one's sound. */
  function sounded(t: Take): boolean {
    const then = takes.thenOf(t)
    return !then || site.outputs(t.source).some((to) => {
      const route = routeTo(then.rig, then.from, to)
      return route !== null && routeSounds(then.rig, route)
    })
  }
  /** The newest take of all of a source here, by the clock of its reference. */
  const takeOf = (source: string, position: string) => takes.all.findLast(t =>
    t.source === source && t.position === position && tellsCell(t) && t.timing.sameClock && sounded(t))
  /** Seconds by which the drafts let a source arrive later than when a take was made. */
  function movedBy(take: Take): number {
    const then = takes.thenOf(take)
    const to = site.outputs(take.source)[0]
    if (!then || !to || !from.value) return 0
    const [was, is] = [routeTo(then.rig, then.from, to), routeTo(site.draftRig, from.value, to)]
    return was && is ? routeDelay(site.draftRig, is) - routeDelay(then.rig, was) : 0
  }
  function heard(source: string, position: string): Heard | null {
    const take = takeOf(source, position)
    const drafted = take && takes.asDrafted(take)
    if (!drafted) return null
    const { curve, unforeseen } = drafted
    const { delay } = take.timing
    const arrival = take.info.arrival === null ? null : take.info.arrival + movedBy(take)
    return { take, curve, delay, inPart: unforeseen.length > 0, arrival }
  }
  const table = computed(() => site.sources.map(source => ({
    source,
    cells: site.positions.map(position => heard(source.id, position.id)),
  })))
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
  /** Where both are heard about as loud and trusted. */
  const overlap = computed(() => {
    if (!places.value.length) return null
    const mean = (which: 'r' | 'm') => Array.from(standardGrid, (_, k) => {
      const powers = places.value.map(p => p[which].curve).map(c => c.re[k]! ** 2 + c.im[k]! ** 2)
      return 10 * Math.log10(Math.max(1e-30, powers.reduce((s, v) => s + v, 0) / powers.length))
    })
    const flags = places.value.flatMap(p => [p.r.curve, p.m.curve]).map(c => trusted(c, charts.settings.trust))
    const seen = (level: number, k: number) => (flags.filter(f => f[k]).length > flags.length / 3 ? level : -200)
    return overlapOf(mean('r').map(seen), mean('m').map(seen), [...standardGrid])
  })
  /** The complex readings of both over a band, the moved one by the time of the reference. */
  function pairsIn([low, high]: readonly [number, number]) {
    const at = [...standardGrid.keys()].filter(k => standardGrid[k]! >= low && standardGrid[k]! <= high)
    const frequencies = Float64Array.from(at, k => standardGrid[k]!)
    const pairs = places.value.map(({ r, m }): Pair => {
      const late = m.delay - r.delay
      const turned = copyOf(m.curve)
      applyGainAndDelay(turned, 1, late)
      const inBand = ({ re, im }: Curve) =>
        ({ re: Float64Array.from(at, k => re[k]!), im: Float64Array.from(at, k => im[k]!) })
      return {
        reference: inBand(r.curve),
        move: inBand(turned),
        ...(m.arrival !== null && r.arrival !== null ? { apart: m.arrival - r.arrival } : {}),
      }
    })
    // on a logarithmic grid each point stands for a bandwidth that grows with its frequency
    return { frequencies, widths: frequencies.slice(), pairs }
  }

  /** The delays of a source that no other source passes. */
  function delaysOf(source: Source): OwnDelay[] {
    const outside = site.sources.filter(s => s.id !== source.id).flatMap(s => site.outputs(s.id))
    const own = from.value && ownDelays(site.draftRig, from.value, site.outputs(source.id), outside)
    if (!own?.length) throw new RangeError(`${source.name} has no delay of its own: other sources share every one.`)
    return own
  }
  const setOf = (delays: readonly OwnDelay[]) => Math.min(...delays.map(({ device, parameter }) =>
    valueOf(site.draftRig.devices[device]!.settings, parameter) as number))
  async function make(edits: readonly Setting[], words: string): Promise<boolean> {
    const steps = site.live
      ? edits.map((e) => {
          const device = site.draftRig.devices[e.device]!
          const strip = device.capability.strips.find(s => e.path.startsWith(`/${s.id}/`))!
          const p = parametersIn(device.capability, strip.id).find(x => x.path === e.path)!
          return louderBy(p, valueOf(device.settings, p), e.value)
        })
      : []
    const step = Math.max(-Infinity, ...steps)
    if (!(await agreement.louder(step, words.replace(/\.$/, '')))) return false
    if (!(await site.editAll(edits))) return false
    const act = { name: 'Undo', run: () => void site.undo() }
    notices.say('info', `${words}${site.live ? '' : ' It waits in the draft until it is sent.'}`, { act })
    return true
  }
  /** What sets a candidate: delay, polarity and level of the moved source, by blocks that no other source passes. */
  function editsOf({ delay, polarity, level }: AlignCandidate): { edits: Setting[], short: number } {
    const own = delaysOf(move.value!)
    const least = setOf(own)
    const short = Math.max(0, -(least + delay))
    const edits: Setting[] = [
      ...moveInTime(site.draftRig, own, delay + short),
      ...(short > 1e-6 ? moveInTime(site.draftRig, delaysOf(reference.value!), short) : []),
    ]
    for (const { device, parameter } of own) {
      const { capability, settings } = site.draftRig.devices[device]!
      for (const p of parametersIn(capability, parameter.strip!)) {
        const now = valueOf(settings, p)
        if (p.kind.kind === 'polarity' && polarity < 0)
          edits.push({ device, path: p.path, value: now === 'normal' ? 'inverted' : 'normal' })
        if (p.kind.kind === 'gain' && level) edits.push({ device, path: p.path, value: (now as number) + level })
      }
    }
    return { edits, short }
  }
  async function apply(candidate: AlignCandidate) {
    try {
      const { edits, short } = editsOf(candidate)
      const [moved, first] = [move.value!.name, reference.value!.name]
      const turned = candidate.polarity < 0 ? ', its polarity turned' : ''
      const instead = ` No more can be taken from it: ${first} is delayed by ${showDelay(short)} instead, and what was `
        + 'aligned to that must follow.'
      await make(edits, `${moved} is brought to ${first}: ${showDelay(candidate.delay)}${turned}.`
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
      const own = list.map(delaysOf)
      const by = bringTogether(list.map((s, n) => ({
        arrivals: rowOf(s).map(c => c?.arrival ?? null),
        set: setOf(own[n]!),
        later: n ? later : 0,
      })), weights)
      const edits = own.flatMap((delays, n) => (by[n] ? moveInTime(site.draftRig, delays, by[n]) : []))
      const names = list.slice(1).map(s => s.name).join(', ')
      await make(edits, `${names} ${list.length > 2 ? 'arrive' : 'arrives'} with ${list[0]!.name}`
      + `${later ? `, ${showDelay(later)} later` : ''}.`)
    }
    catch (error) { notices.fail(error) }
  }
  return {
    table, known, reference, move, referenceId, moveId, places, overlap, pairsIn, apply, together,
  }
})
