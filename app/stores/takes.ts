import { defineStore } from 'pinia'
import { decodeTake, type TakeData } from '~~/core/formats/take'
import { smooth } from '~~/core/measure'
import { movedParts, parameterName, predict, showParameter, staleness } from '~~/core/rig'
import type { Curve } from '~~/core/dsp'
import type { TakeRecord } from '~~/server/db/sites'
import { askBytes } from '~/utils/api'

/** Kept measurements: their curves, whether they are still true, and what they predict. */
export const useTakes = defineStore('takes', () => {
  const site = useSite()
  const view = useView()
  const notices = useNotices()
  const data = shallowRef<Record<string, TakeData>>({})
  const asked = new Set<string>()

  const all = computed(() => site.site?.takes ?? [])

  const load = async (id: string) => {
    if (asked.has(id)) return
    asked.add(id)
    try { data.value = { ...data.value, [id]: decodeTake(await askBytes(site.path(`/takes/${id}/data`))) } }
    catch (error) {
      asked.delete(id)
      notices.fail(error)
    }
  }

  /** What was moved in the plan since a take was made. */
  function movedSince(t: TakeRecord): string[] {
    const source = site.site!.sources.find(s => s.id === t.sourceId), position = site.site!.positions.find(p => p.id === t.positionId)
    const { geometry } = t.info
    if (!geometry || !source || !position) return []
    const moved = movedParts(geometry, source, position)
    return [...moved.source ? [`${source.name} was moved.`] : [], ...moved.position ? [`${position.name} was moved.`] : []]
  }

  /** Why each take no longer tells what is there: settings in the devices, or places; empty where it still does. */
  const stale = computed(() => Object.fromEntries(all.value.map(t => [t.id, [...movedSince(t),
    ...staleness(site.heldRig, t.settings, t.feed, site.outputsOf(t.sourceId))
      .map(d => `${site.deviceOf(d.device)?.name}: ${parameterName(d.path)} ${showParameter(d.path, d.from)} → ${showParameter(d.path, d.to)}`)]])))

  /** Takes whose settings differ from the drafts: those have a prediction of their own. */
  const moved = computed(() => new Set(all.value.filter(t => staleness(site.draftRig, t.settings, t.feed, site.outputsOf(t.sourceId)).length).map(t => t.id)))

  const inCell = (source: string, position: string) => all.value.filter(t => t.sourceId === source && t.positionId === position)

  const picked = computed(() => view.cell ? inCell(view.cell.source, view.cell.position) : [])
  const shown = computed(() => picked.value.filter(t => !view.hidden.includes(t.id)))
  watch(shown, list => list.forEach(t => void load(t.id)), { immediate: true })

  const measured = computed(() => shown.value.flatMap(t => data.value[t.id] ? [{ take: t, curve: smooth(data.value[t.id]!.curve, view.smoothing) }] : []))
  const predicted = computed(() => shown.value.flatMap((t): { take: typeof t, curve: Curve }[] => {
    const kept = data.value[t.id]
    if (!kept || !moved.value.has(t.id)) return []
    return [{ take: t, curve: smooth(predict(kept.curve, site.draftRig, t.settings, t.feed, site.outputsOf(t.sourceId)), view.smoothing) }]
  }))

  return { all, stale, moved, inCell, picked, shown, measured, predicted }
})
