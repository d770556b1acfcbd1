import { defineStore } from 'pinia'
import { movedParts, soundedIn, type Take } from '~~/core/documents'
import type { Curve } from '~~/core/dsp'
import { smooth } from '~~/core/measure'
import {
  createStalenessTable,
  isStale,
  type Moved,
  type Rig,
  type Staleness,
} from '~~/core/rig'
import { useChartSettings } from '~/document/chartSettings'
import { useTakeData } from '~/document/useTakeData'
import { ask } from './api'
import { clockOf } from '~/parts/clock'
import { createPredictions, viewedAs } from './predictions'
import { useSite } from './site'
import { useSnapshots } from './snapshots'
import { useView } from './view'
import { useNotices } from '~/parts/notices'
import { message } from '~~/core/words'
import { phrase } from '~/parts/phrase'

const nothing: Staleness = { settings: [], wiring: [] }
const samePlace = (a: Moved, b: Moved) => a.device === b.device && a.path === b.path

/** Kept measurements: their curves, whether they are still true, and what they predict. */
export const useTakes = defineStore('takes', () => {
  const site = useSite()
  const view = useView()
  const charts = useChartSettings()
  const notices = useNotices()
  const snapshots = useSnapshots()
  const { data, load, loadLater, store, waiting } = useTakeData((take, curve) => sayKept(take, curve))

  /** Where a take stands in its cell: by its own place, else by its time. */
  const placeOf = (t: Take) => t.place ?? new Date(t.at).getTime()
  const all = computed(() => site.takes.filter(t => !t.deleted).sort((a, b) => (a.at < b.at ? -1 : 1)))
  watch(all, list => snapshots.want(list.flatMap(t => t.snapshot ?? [])), { immediate: true })

  /** What was moved in the plan since a take was made. */
  function movedSince({ geometry, source, position }: Take): string[] {
    const [s, p] = [site.sourceOf(source), site.positionOf(position)]
    if (!geometry || !s || !p) return []
    const moved = movedParts(geometry, s, p)
    return [...(moved.source
      ? [phrase('document.wasMoved', {
          name: s.name,
        })]
      : []), ...(moved.position
      ? [phrase('document.wasMoved', {
          name: p.name,
        })]
      : [])]
  }
  const tables = { held: createStalenessTable(), draft: createStalenessTable() }
  const thenOf = (t: Take) => (t.snapshot === null ? undefined : snapshots.known.get(t.snapshot))
  function stalenessOf(t: Take, which: 'held' | 'draft', now: Rig): Staleness {
    const then = thenOf(t)
    if (!then) return nothing
    const [first, ...others] = soundedIn(t).map(s => tables[which](then, now, s, t.only, site.deviceName))
    return others.reduce((all, one) => ({
      settings: [...all.settings, ...one.settings.filter(x => !all.settings.some(y => samePlace(x, y)))],
      wiring: [...new Set([...all.wiring, ...one.wiring])],
    }), first!)
  }
  /** A take whose settings could not be read is not called fresh. */
  const unsure = ({ snapshot }: Take) =>
    (snapshot !== null && snapshots.lacking.has(snapshot)
      ? [phrase('document.itsSettingsCouldNot')]
      : [])
  const sayMoved = ({ device, parameter: p, from, to }: Moved) =>
    `${site.deviceName(device)}: ${p.name} ${p.kind.show(from, p.capability)} → ${p.kind.show(to, p.capability)}`

  /**
   * Why each take no longer tells what is there: settings in the devices, cables, or places; empty where it
   * still does.
   */
  const stale = computed(() =>
    Object.fromEntries(
      all.value.map((t) => {
        const { settings, wiring } = stalenessOf(t, 'held', site.confirmedRig)
        return [t.id, [...movedSince(t), ...wiring, ...settings.map(sayMoved), ...unsure(t)]]
      }),
    ),
  )
  /** Takes whose settings differ from the drafts: those have a prediction of their own. */
  const moved = computed(
    () =>
      new Map(
        all.value.flatMap((t) => {
          const found = stalenessOf(t, 'draft', site.desiredRig)
          return isStale(found) ? [[t.id, found] as const] : []
        }),
      ),
  )

  const cellOf = (t: Take) => `${t.source}/${t.position}`
  /** Every cell is asked for many times with each edit: takes are laid by cell once. */
  const byCell = computed(() => {
    const cells = new Map<string, Take[]>()
    for (const take of all.value) {
      const cell = cellOf(take)
      const list = cells.get(cell)
      if (list) list.push(take)
      else cells.set(cell, [take])
    }
    return cells
  })
  const none: readonly Take[] = []
  const inCell = (source: string, position: string): readonly Take[] =>
    byCell.value.get(`${source}/${position}`) ?? none
  /** The newest take of a cell that holds all of its source. */
  const newestOf = (source: string, position: string) => inCell(source, position).findLast(t => !t.only)
  const predicting = createPredictions({
    site, data, inCell, thenOf, stalenessOf, movedSince,
    load,
    trust: () => charts.settings.trust,
  })
  const picked = computed(() =>
    view.cell ? inCell(view.cell.source, view.cell.position).toSorted((a, b) => placeOf(a) - placeOf(b)) : [],
  )
  /** The picked cell's takes, and of each cell laid over it the newest. */
  const shown = computed(() => [
    ...picked.value.filter(t => !view.hidden.includes(t.id)),
    ...view.overlaid
      .filter(c => !view.cell || c !== `${view.cell.source}/${view.cell.position}`)
      .map(c => c.split('/') as [string, string])
      .flatMap(([source, position]) => newestOf(source, position) ?? inCell(source, position).slice(-1)),
  ])

  watch(
    shown,
    (list) => {
      for (const t of list) {
        load(t.id)
        for (const part of predicting.partsOf(t) ?? []) load(part.id)
      }
    },
    { immediate: true },
  )

  const smoothed = (curve: Curve) => smooth(curve, view.smoothing, undefined, charts.settings.complexSmoothing)
  const curves = computed(() =>
    shown.value.flatMap((take) => {
      const found = data.value[take.id]
      return found ? [{ take, data: found, raw: viewedAs(found.curve, take) }] : []
    }),
  )
  const measured = computed(() => curves.value.map(c => ({ ...c, curve: smoothed(c.raw) })))

  function predictionOf(take: Take, raw: Curve) {
    const found = moved.value.get(take.id)
    return found ? predicting.predictionOf(take, raw, found, site.desiredRig) : null
  }
  const predictions = computed(() =>
    curves.value.flatMap(({ take, raw }) => {
      const predicted = predictionOf(take, raw)
      return predicted ? [{ take, ...predicted }] : []
    }),
  )
  const predicted = computed(() => predictions.value.filter(p => !p.isNothing).map(({ take, curve, unforeseen }) => ({
    take,
    curve: smoothed(curve),
    without: unforeseen.length ? predicting.whyUnforeseen(take) : null,
  })))
  /** Takes that edits no longer leave true and that nothing foresees, with the reason. */
  const unpredicted = computed(() => Object.fromEntries(
    predictions.value.filter(p => p.isNothing).map(({ take }) => [take.id, predicting.whyUnforeseen(take)])))
  /** What a take's prediction leaves out, in words. */
  const unforeseen = computed(() =>
    Object.fromEntries(
      predictions.value
        .filter(p => p.unforeseen.length)
        .map(p => [
          p.take.id,
          phrase('document.itsPredictionLeavesOut', { unforeseen: p.unforeseen.map(sayMoved).join(', ') }),
        ]),
    ),
  )

  /** A take's name, as short as its surroundings allow. */
  function shortName(t: Take): string {
    const [source, position] = [site.sourceOf(t.source)?.name ?? '', site.positionOf(t.position)?.name ?? '']
    const usual = `${source} · ${position}`
    if (!t.name.startsWith(usual) || !/^((, take)? \d+)?$/.test(t.name.slice(usual.length))) return t.name
    const where = t.source === view.cell?.source ? position : usual
    const minute = clockOf(t.at)
    const alike = inCell(t.source, t.position).filter(o => clockOf(o.at) === minute)
    return `${where}, ${minute}${alike.length > 1 ? ` (${alike.indexOf(t) + 1})` : ''}`
  }

  type Changeable = Pick<Take, 'name' | 'note' | 'hue' | 'offset' | 'shift' | 'place' | 'deleted'>
  /** Changes how a take is called or shown. */
  const change = (id: string, next: Partial<Changeable>) =>
    site.change(
      Object.entries(next).map(([field, value]) => ({ document: `take/${id}`, path: `/${field}`, new: value })),
      { live: false },
    )
  /** Puts a take before or after its neighbour in the cell. */
  function move(t: Take, by: 1 | -1) {
    const list = picked.value
    const at = list.findIndex(x => x.id === t.id) + by
    const next = list[at]
    const beyond = list[at + by]
    if (next)
      void change(t.id, { place: beyond ? (placeOf(next) + placeOf(beyond)) / 2 : placeOf(next) + by * 1000 })
  }
  async function remove(t: Take) {
    await change(t.id, { deleted: true })
    const run = () => void change(t.id, { deleted: false })
    notices.say('warn', message('take.deleted', { name: t.name }), { act: { name: phrase('common.restore'), run } })
  }
  const duplicate = (id: string) => ask(site.path(`/takes/${id}/duplicate`), { method: 'POST' }).catch(notices.fail)

  function sayKept(take: Take, measured: Curve) {
    const isMeasured = ['live', 'sweep'].includes(take.info.method)
    if (!isMeasured || site.fed(take.source)) {
      const also = isMeasured && !take.only ? predicting.foreseen(take, measured) : ''
      return notices.say('info', message('take.saved', { name: take.name, more: also }))
    }
    const run = () => void change(take.id, { deleted: true })
    notices.say(
      'warn',
      message('take.savedStray', { name: take.name, source: site.sourceOf(take.source)?.name ?? take.source }),
      { act: { name: phrase('document.deleteIt'), run } },
    )
  }

  return {
    all,
    stale,
    moved,
    inCell,
    newestOf,
    picked,
    shown,
    curves,
    smoothed,
    measured,
    predicted,
    unforeseen,
    unpredicted,
    asUnder: predicting.asUnder,
    aloneAt: predicting.aloneAt,
    sumApart: predicting.sumApart,
    curveOf: (id: string) => data.value[id]?.curve ?? null,
    dataOf: (id: string) => data.value[id] ?? null,
    load,
    loadLater,
    /** Whether cables or places are others than when it was made: no prediction mends that. */
    outdated: (t: Take) => movedSince(t).length > 0 || stalenessOf(t, 'held', site.confirmedRig).wiring.length > 0,
    thenOf,
    shortName,
    change,
    move,
    remove,
    duplicate,
    store,
    waiting,
  }
})
