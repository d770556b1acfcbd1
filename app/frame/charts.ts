import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import type { TimeWeighting, Weighting } from '~~/core/measure'

/** What the plate can show. `besides`: what the analysis must compute for it. */
export const chartKinds = {
  'magnitude': { name: 'Magnitude' },
  'phase': { name: 'Phase' },
  'coherence': { name: 'Coherence' },
  'group-delay': { name: 'Group delay' },
  'impulse': { name: 'Impulse response' },
  'envelope': { name: 'Impulse response in dB' },
  'step': { name: 'Step response' },
  'spectrum': { name: 'Spectrum' },
  'spectrogram': { name: 'Spectrogram' },
  'decay-map': { name: 'Decay over frequency' },
  'decay-times': { name: 'Decay times and clarity' },
  'distortion': { name: 'Distortion by harmonic' },
  'level': { name: 'Sound level' },
} as const
export type ChartKind = keyof typeof chartKinds
const kindIds = Object.keys(chartKinds) as ChartKind[]

export const frequencyWindows = [
  ['whole', 18, 20_500],
  ['low', 20, 200],
  ['low and middle', 40, 800],
  ['middle', 200, 3000],
  ['high', 1000, 20_000],
] as const
const usual = {
  low: 18,
  high: 20_500,
  /** dB shown; the top follows the traces. */ span: 42,
  /** Coherence under which a trace is pale. */ trust: 0.6,
  unwrapped: false,
  complexSmoothing: false,
  /** Level of the movable line in dB, or null. */ line: null as number | null,
  /** Seconds of response shown. */ time: 0.02,
  part: 3,
  hold: false,
  decayPart: 1 as 1 | 3,
  mapLength: 0.6,
  mapWindow: 0.1,
  limit: 0.3,
  weighting: 'A' as Weighting,
  detector: 'slow' as TimeWeighting,
}

/** The charts of the plate and how each is shown; remembered by this browser. */
export const useCharts = defineStore('charts', () => {
  const listen = useListen()
  const shown = useLocalStorage<ChartKind[]>('kovrin-charts', ['magnitude', 'phase', 'coherence'])
  if (!shown.value.length || !shown.value.every(k => kindIds.includes(k)))
    shown.value = ['magnitude', 'phase', 'coherence']
  const settings = useLocalStorage('kovrin-chart-settings', usual, { mergeDefaults: true })
  const has = (...kinds: ChartKind[]) => shown.value.some(k => kinds.includes(k))
  watch(
    () => [shown.value, settings.value.weighting, settings.value.detector],
    () => {
      listen.wants = {
        impulse: has('impulse', 'envelope', 'step', 'decay-map', 'decay-times'),
        spectrum: has('spectrum', 'spectrogram'),
        level: has('level') ? { weighting: settings.value.weighting, time: settings.value.detector } : null,
      }
    },
    { immediate: true, deep: true },
  )
  return {
    shown,
    settings,
    set: (slot: number, kind: ChartKind) => {
      shown.value = shown.value.map((k, n) => (n === slot ? kind : k))
    },
    add: () => {
      shown.value = [...shown.value, kindIds.find(k => !shown.value.includes(k))!]
    },
    remove: (slot: number) => {
      shown.value = shown.value.filter((_, n) => n !== slot)
    },
  }
})
