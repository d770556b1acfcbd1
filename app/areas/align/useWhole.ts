import { magnitude } from '~~/core/dsp'
import { nextOrder, type Alternative } from '~~/core/documents'
import { smooth } from '~~/core/measure'
import { differences, type Rig } from '~~/core/rig'
import { allHeard, comparable, figuresOf, levelOf, sumOf, type Figures, type Reading } from '~~/core/tune'
import type { Trace } from '~/charts/traces'
import { useActs } from '~/document/useActs'
import { useCharts } from '~/charts/useCharts'
import { useHeard } from '~/document/heard'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { message } from '~~/core/words'
import { phrase } from '~/parts/phrase'

/** The whole system at every position as it will sound, with any sources left out, and ways to set it compared. */
export function useWhole() {
  const site = useSite()
  const heard = useHeard()
  const view = useView()
  const charts = useCharts()
  const notices = useNotices()
  const { make } = useActs()
  /** Sources left out. */
  const muted = ref<string[]>([])
  /** The alternative that is looked at; null: the drafts. */
  const shown = ref<string | null>(null)
  const alternatives = computed(() => site.alternatives)

  const rigOf = (a: Alternative | undefined): Rig => (a
    ? {
        ...site.desiredRig,
        devices: Object.fromEntries(Object.entries(site.desiredRig.devices).map(([id, device]) =>
          [id, { ...device, settings: a.settings[id] ?? device.settings }])),
      }
    : site.desiredRig)
  /** What sounds of what was measured. */
  const playing = computed(() => {
    const { job } = heard
    if (!job) return null
    const sources = job.sources.filter(s => s.takes.some(Boolean) && !muted.value.includes(s.id))
    return sources.length ? { ...job, sources } : null
  })
  const now = computed(() => alternatives.value.find(a => a.id === shown.value))
  const readings = computed(() => (playing.value ? allHeard(playing.value, rigOf(now.value)) : []))
  /** By position: the sum of what is known there, and what is missing. */
  const sums = computed(() => site.positions.map((position, n) => {
    const parts = readings.value.map(list => list[n] ?? null)
    const known = parts.filter(p => p !== null)
    const missing = (playing.value?.sources ?? []).filter((_, k) => !parts[k]).map(s => s.name)
    const inPart = (playing.value?.sources ?? []).filter((_, k) => parts[k]?.unforeseen.length).map(s => s.name)
    const sum: Reading | null = known.length ? sumOf(known) : null
    return { position, sum, missing, inPart, level: sum ? levelOf(sum, 200, 4000) : null }
  }))
  const traces = computed<Trace[]>(() => sums.value.flatMap(({ position, sum }) => {
    if (!sum) return []
    const curve = smooth(sum.curve, view.smoothing, undefined, charts.settings.complexSmoothing)
    const flags = Array.from(curve.frequencies, (_, k) =>
      curve.coherence === null || curve.coherence[k]! >= charts.settings.trust)
    return [{
      id: position.id, name: position.name, hue: 7, dash: position.dash, predicted: true, strong: true,
      values: magnitude(curve), trusted: flags,
    }]
  }))
  /** Drafts and alternatives beside each other. */
  const compared = computed(() => {
    const { value } = playing
    const list: { id: string | null, name: string, figures: Figures | null }[]
      = [{ id: null, name: phrase('align.asDraftedNow') }, ...alternatives.value].map(a => ({
        id: a.id,
        name: a.name,
        figures: value && figuresOf(value, allHeard(value, rigOf(alternatives.value.find(x => x.id === a.id)))),
      }))
    return list
  })
  const comparedAt = computed(() =>
    (playing.value ? comparable(playing.value).map(n => site.positions[n]!.name) : []))

  /** Keeps the drafts as one way to set the system. */
  function keep() {
    const letters = [...'ABCDEFGHIJKLMNOPQRSTUVWXYZ']
    const letter = letters.find(l => !alternatives.value.some(a => a.name === l)) ?? `${alternatives.value.length + 1}`
    const id = `alt-${crypto.randomUUID().slice(0, 8)}`
    const made: Alternative = {
      id,
      name: letter,
      order: nextOrder(alternatives.value),
      settings: Object.fromEntries(site.devices.map(d => [d.id, site.draft(d.id)])),
    }
    return site.change([{ document: `alternative/${id}`, path: '', new: made }], { live: false })
  }
  const change = (id: string, path: string, value: unknown) =>
    site.change([{ document: `alternative/${id}`, path, new: value }], { live: false })
  /** Sets the system as an alternative has it, and sends it where that is wished. */
  async function use(id: string, send: boolean) {
    const wanted = alternatives.value.find(a => a.id === id)
    if (!wanted) return
    const edits = site.devices.flatMap(({ id: device, capability }) =>
      differences(capability, site.draft(device), wanted.settings[device] ?? site.draft(device))
        .map(d => ({ device, path: d.path, value: d.to })))
    if (!edits.length && !send) return notices.say('info', message('alternative.same', { name: wanted.name }))
    if (edits.length && !(await make(edits, phrase('align.theSystemIsSet', { name: wanted.name })))) return
    shown.value = null
    if (send) await site.send('mine')
  }
  const toggle = (id: string) => {
    muted.value = muted.value.includes(id) ? muted.value.filter(x => x !== id) : [...muted.value, id]
  }
  return {
    muted, toggle, shown, alternatives, playing, sums, traces, compared, comparedAt, keep, use,
    rename: (id: string, name: string) => change(id, '/name', name),
    remove: (id: string) => change(id, '', undefined),
  }
}
