<script setup lang="ts">
import type { TargetPoint } from '~~/core/documents'
import { showFrequency, showLevel } from '~~/core/units'
import { targetOffset } from '~/charts/kinds/targetLine'
import { useTargets } from '~/document/targets'
import { useCharts } from './useCharts'
import { phrase } from '~/parts/phrase'

/** The points of the site's own target as knobs on the magnitude, while it is drawn: dragged, or moved by arrows. */
const props = defineProps<{
  area: { left: number, top: number, width: number, height: number }
  x: { min: number, max: number }
  min: number
  max: number
}>()
const targets = useTargets()
const charts = useCharts()
const points = computed(() =>
  (targets.editing && charts.settings.showTarget ? targets.own?.points ?? [] : [])
    .map((p, n) => ({ ...p, n }))
    .filter(p => p.frequency >= props.x.min && p.frequency <= props.x.max))
const across = (f: number) =>
  props.area.left + (props.area.width * Math.log(f / props.x.min)) / Math.log(props.x.max / props.x.min)
const down = (level: number) => {
  const shown = Math.min(props.max, Math.max(props.min, level + targetOffset.value))
  return props.area.top + (props.area.height * (props.max - shown)) / (props.max - props.min)
}
let drag: { n: number, x: number, y: number, from: TargetPoint, gesture: string } | null = null
/** A point stays between its neighbours. */
function move(n: number, to: TargetPoint, gesture: string) {
  const all = targets.own!.points
  const low = (all[n - 1]?.frequency ?? 10) * 1.01
  const high = (all[n + 1]?.frequency ?? 40_000) / 1.01
  const frequency = Number(Math.min(high, Math.max(low, to.frequency)).toPrecision(4))
  const level = Math.min(60, Math.max(-60, Math.round(to.level * 10) / 10))
  void targets.set({ points: all.map((p, k) => (k === n ? { frequency, level } : p)) }, gesture)
}
function take(event: PointerEvent, n: number) {
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  drag = { n, x: event.clientX, y: event.clientY, from: targets.own!.points[n]!, gesture: crypto.randomUUID() }
}
function pull(event: PointerEvent) {
  if (!drag) return
  const octaves = Math.log(props.x.max / props.x.min) * ((event.clientX - drag.x) / props.area.width)
  const levels = ((drag.y - event.clientY) / props.area.height) * (props.max - props.min)
  const { frequency, level } = drag.from
  move(drag.n, { frequency: frequency * Math.exp(octaves), level: level + levels }, drag.gesture)
}
function keyed(event: KeyboardEvent, n: number) {
  const fine = event.shiftKey ? 0.1 : 1
  const side = { ArrowRight: fine, ArrowLeft: -fine }[event.key] ?? 0
  const up = { ArrowUp: fine, ArrowDown: -fine }[event.key] ?? 0
  if (!side && !up) return
  const { frequency, level } = targets.own!.points[n]!
  move(n, { frequency: frequency * 2 ** (side / 12), level: level + up * 0.5 }, `keys ${targets.own!.id} ${n}`)
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <button
    v-for="p in points"
    :key="p.n"
    class="point"
    :style="{ left: `${across(p.frequency)}px`, top: `${down(p.level)}px` }"
    :data-point="p.n"
    :aria-label="phrase('charts.targetPoint', {
      n: p.n + 1,
      frequency: showFrequency(p.frequency),
      level: showLevel(p.level),
    })"
    @pointerdown.stop="take($event, p.n)"
    @pointermove.stop="pull"
    @pointerup.stop="drag = null"
    @pointercancel.stop="drag = null"
    @click.stop
    @dblclick.stop
    @keydown="keyed($event, p.n)"
  />
</template>

<style scoped>
.point {
  position: absolute;
  width: 24px;
  height: 24px;
  margin: -12px 0 0 -12px;
  padding: 0;
  border: 0;
  background: radial-gradient(var(--paper) 0 4px, var(--ink) 4px 7px, transparent 7px);
  cursor: grab;
  touch-action: none;
}
.point:focus-visible {
  outline: 3px solid var(--ink);
}
@media (pointer: coarse) {
  .point {
    width: 44px;
    height: 44px;
    margin: -22px 0 0 -22px;
  }
}
</style>
