import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import { bandDriven, groupsOf, needsResponse, noNeeds, sheetNeeds } from '~~/core/documents'
import { addTo, filterKinds, magnitude, silence, standardGrid, unity, type Curve } from '~~/core/dsp'
import {
  applyBlock,
  bandActs,
  linkedPass,
  pathResponse,
  routeDelay,
  routeTo,
  setDelay,
  testFeed,
  type Band,
  type Endpoint,
  type Range,
} from '~~/core/rig'
import { useView, type PickedStrip } from './view'
import { steady } from './steady'
import { isKind, useStrip, type Setting, type SettingOf } from './useStrip'
import { useSite } from './site'
import { phrase } from '~/parts/phrase'

/** One filter of the strip as it is handled on the plate. */
export interface Handle {
  setting: Setting
  name: string
  frequency: number
  /** dB at which it is taken hold of; null: it has none of its own to set. */
  gain: number | null
  q: number | null
  /** What it does is heard. */
  acts: boolean
  range: { frequency: Range, gain?: Range, q?: Range }
}

/** Whether a block stands in the strip's response as it is drawn: delays aside. */
const isDrawn = (s: Setting) => s.parameter.kind.role === 'linear' && !isKind(s, 'delay')
function handleOf(setting: SettingOf<'pass'> | SettingOf<'band'>): Handle {
  const name = setting.parameter.short
  if (isKind(setting, 'pass')) {
    const { draft: { frequency, on }, parameter: { capability } } = setting
    return { setting, name, frequency, gain: null, q: null, acts: on, range: { frequency: capability.frequency } }
  }
  const { draft: band, parameter: { capability: { frequency, gain, q } } } = setting
  const type = filterKinds[band.type]
  return {
    setting,
    name,
    frequency: band.frequency,
    gain: type.gain ? band.gain : null,
    q: type.q ? band.q : null,
    acts: bandActs(band),
    range: { frequency, gain, q },
  }
}

/** What is being shaped: the picked strip, its filters, and what they do, drawn or not, with no take and no device. */
export const useShaping = defineStore('shaping', () => {
  const site = useSite()
  const view = useView()
  const to = computed(() => {
    const outputs = view.cell && site.open ? site.outputs(view.cell.source) : []
    return outputs[view.way] ?? outputs[0] ?? null
  })
  /** The strip that was picked in the ribbon; else the processor output that feeds the picked source. */
  const strip = steady<PickedStrip | null>(() => {
    if (view.strip || !to.value) return view.strip
    const from = site.feedFrom(testFeed)
    if (!from) return null
    const step = routeTo(site.desiredRig, from, to.value)?.find(s => s.point)
    return step ? { device: step.device, strip: step.strip } : null
  })
  const { device, settings, set } = useStrip(() => strip.value ?? { device: '', strip: '' })
  const rate = computed(() => device.value?.capability.sampleRate ?? 48_000)
  const name = computed(() => device.value?.capability.strips.find(s => s.id === strip.value?.strip)?.name ?? '')
  const filters = computed(() => settings.value.filter(s => isKind(s, 'band') || isKind(s, 'pass')))
  const handles = computed(() => filters.value.filter(s => s.draft.on).map(handleOf))
  /** The output by which the strip leaves, where it does. */
  const output = computed(() => {
    const channel = device.value?.capability.outputs.findIndex(o => o.strip === strip.value?.strip) ?? -1
    return channel < 0 ? null : { device: device.value!.id, channel }
  })
  /** What is laid over that output from outside, each by itself: its sheet, its groups. */
  const layers = computed(() => {
    if (!output.value) return []
    const sheet = sheetNeeds(site.documents, output.value)
    const groups = groupsOf(site.documents, output.value)
      .map(g => ({ name: g.name, needs: { ...noNeeds, ...g.layer } }))
    return [...(sheet ? [{ name: phrase('document.itsSheet'), needs: sheet }] : []), ...groups]
      .map(({ name, needs }) => ({ name, curve: needsResponse(needs, standardGrid, rate.value) }))
  })
  /** Path of the filter in hand, and of others that move with it. */
  const picked = ref<string | null>(null)
  const along = ref<string[]>([])
  watch([() => strip.value?.device, () => strip.value?.strip], () => {
    along.value = []
  })
  const toggleAlong = (path: string) => {
    along.value = along.value.includes(path) ? along.value.filter(p => p !== path) : [...along.value, path]
  }
  /** Whether the corners of neighbouring bands move together where they stand at one frequency. */
  const linked = useLocalStorage('kovrin-linked-corners', true)
  const twinOf = (setting: Setting) => {
    const from = site.feedFrom(testFeed)
    if (!from || !strip.value || !isKind(setting, 'pass')) return null
    const own = { parameter: setting.parameter, value: setting.draft }
    return linkedPass(site.desiredRig, from, ways.value?.outputs ?? [], strip.value, own)
  }

  function responseOf(list: readonly Setting[], which: 'draft' | 'held'): Curve {
    const curve = unity(standardGrid)
    for (const s of list) {
      const value = which === 'held' ? (s.held ?? s.draft) : s.draft
      applyBlock(curve, s.parameter, value, rate.value)
    }
    return curve
  }
  const parts = computed(() => settings.value.filter(isDrawn))
  /** The strip whole, as it is wanted; delays and mutes aside. */
  const composite = computed(() => responseOf(parts.value, 'draft'))
  /** The same as the device holds it, where that differs. */
  const inDevice = computed(() => (parts.value.some(s => s.differs) ? responseOf(parts.value, 'held') : null))
  /** All devices on the way from the feed to the loudspeaker; null where nothing leads there or it is silent. */
  const path = computed(() => {
    const from = site.feedFrom(testFeed)
    if (!from || !to.value || !routeTo(site.desiredRig, from, to.value)) return null
    const curve = pathResponse(site.desiredRig, from, to.value, standardGrid)
    return magnitude(curve).some(v => v > -150) ? curve : null
  })
  /** Every way of the picked source, where it has several: what drives each band, and all of them together. */
  const ways = computed(() => {
    const from = site.feedFrom(testFeed)
    const outputs = view.cell ? site.outputs(view.cell.source) : []
    const names = bandNames(outputs)
    if (!from || outputs.length < 2 || !names) return null
    const curves = outputs.map(o => pathResponse(site.desiredRig, from, o, standardGrid))
    const sum = silence(standardGrid)
    for (const c of curves) addTo(sum, c)
    const route = routeTo(site.desiredRig, from, outputs[0]!) ?? []
    const latency = routeDelay(site.desiredRig, route) - setDelay(site.desiredRig, route)
    return { bands: curves.map((curve, n) => ({ name: names[n]!, curve })), sum, outputs, latency }
  })
  /** Names of the bands that outputs drive, one each; null where they are not the bands of one kind of loudspeaker. */
  function bandNames(outputs: readonly Endpoint[]): string[] | null {
    const driven = outputs.map(o => bandDriven(site.documents, view.cell!.source, o))
    const names = driven.map(d => (d && d.sheet.bands.length > 1 ? d.band.name : undefined))
    return names.every(n => n !== undefined) && new Set(names).size === names.length ? names as string[] : null
  }
  const ownOf = ({ setting }: Handle) => responseOf([setting], 'draft')

  /** Sets numbers of a filter; those of one gesture are one step of undo. */
  function change({ setting }: Pick<Handle, 'setting'>, numbers: object, gesture?: string) {
    const draft = setting.draft as object
    const { frequency } = numbers as Partial<Band>
    const twin = linked.value && frequency !== undefined ? twinOf(setting) : null
    const also = twin
      ? [{ device: twin.device, path: twin.path, value: { ...twin.value, frequency } }]
      : []
    return set(setting, { ...draft, ...numbers }, gesture, also)
  }
  /** Sets several filters of the strip together. */
  const changeAll = (list: readonly { handle: Handle, numbers: object }[], gesture: string) =>
    site.editAll(list.map(({ handle: { setting }, numbers }) => ({
      device: strip.value!.device,
      path: setting.parameter.path,
      value: { ...setting.draft as object, ...numbers },
    })), { gesture })

  return {
    strip, to, device, rate, name, settings, filters, handles, picked, along, toggleAlong, linked, twinOf, composite,
    inDevice, path, ways, ownOf, change, changeAll, responseOf, output, layers,
  }
})
