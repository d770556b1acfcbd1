import { defineStore, storeToRefs } from 'pinia'
import { useLocalStorage, usePreferredReducedMotion } from '@vueuse/core'
import type { Wants } from '~~/core/contract'
import { useChartSettings } from '~/document/chartSettings'
import { chartKindIds, chartKinds, type ChartKind } from './registry'
import { useListen } from '~/sound/listen'

const usual: ChartKind[] = ['magnitude', 'phase', 'coherence']
const nothing: Wants = { calm: false, impulse: false, spectrum: false, bands: null, level: null }

/** The charts of the plate and how each is shown; remembered by this browser. */
export const useCharts = defineStore('charts', () => {
  const listen = useListen()
  const shown = useLocalStorage<ChartKind[]>('kovrin-charts', usual)
  if (!shown.value.length || !shown.value.every(k => chartKindIds.includes(k))) shown.value = usual
  const { settings } = storeToRefs(useChartSettings())
  /** The chart that has the plate to itself, by its place. */
  const alone = ref<number | null>(null)
  const motion = usePreferredReducedMotion()
  const needs = () => shown.value.map(k => chartKinds[k].needs?.(settings.value) ?? {})
  watch(
    () => Object.assign({}, nothing, { calm: motion.value === 'reduce' }, ...needs()) as Wants,
    (wants, before) => {
      if (JSON.stringify(wants) !== JSON.stringify(before)) listen.wants = wants
    },
    { immediate: true },
  )
  return {
    shown,
    settings,
    alone,
    set: (slot: number, kind: ChartKind) => {
      shown.value = shown.value.map((k, n) => (n === slot ? kind : k))
    },
    /** Shows a kind: where it stands already, else in the second place. */
    show: (kind: ChartKind) => {
      alone.value = null
      if (!shown.value.includes(kind)) shown.value = shown.value.toSpliced(1, 1, kind)
    },
    add: () => {
      shown.value = [...shown.value, chartKindIds.find(k => !shown.value.includes(k))!]
    },
    remove: (slot: number) => {
      alone.value = null
      shown.value = shown.value.filter((_, n) => n !== slot)
    },
  }
})
