<script setup lang="ts">
import { isKind } from '~/document/useStrip'
import { useEventListener } from '@vueuse/core'
import { mostLouder } from '~~/core/documents'
import { showFrequency, showLevel, showNumber, toStep } from '~~/core/units'
import { useShaping, type Handle } from '~/document/shaping'
import { useSite } from '~/document/site'
import { phrase } from '~/parts/phrase'

/**
 * The picked strip's filters on the plate, each a knob: dragged by mouse or finger (frequency across, gain up and
 * down), wheel or a second finger for the width; by keys arrows, Page Up and Page Down for the width, Shift for a
 * tenth, Delete takes it out. A click with Shift picks several; they move together.
 */
const props = defineProps<{
  area: { left: number, top: number, width: number, height: number }
  x: { min: number, max: number }
  min: number
  max: number
}>()
const site = useSite()
const shaping = useShaping()
const acrossOf = (f: number) =>
  props.area.left + (props.area.width * Math.log(f / props.x.min)) / Math.log(props.x.max / props.x.min)
const clamp = (v: number, range: { min: number, max: number }) => Math.min(range.max, Math.max(range.min, v))
const downOf = (v: number) =>
  props.area.top + (props.area.height * (props.max - clamp(v, props))) / (props.max - props.min)
const shown = computed(() => shaping.handles.filter(h => h.frequency >= props.x.min && h.frequency <= props.x.max))

const heldFrequency = (h: Handle, f: number) => clamp(Number(f.toPrecision(4)), h.range.frequency)
const heldGain = (h: Handle, v: number) => clamp(toStep(v, h.range.gain!.step), h.range.gain!)
const keyOf = (h: Handle) => h.setting.parameter.path
const now = (key: string) => shaping.handles.find(h => keyOf(h) === key)

interface Drag {
  key: string
  pointer: number
  x: number
  y: number
  frequency: number
  gain: number | null
  gesture: string
  /** Those that move along, as they were. */
  others: { key: string, frequency: number, gain: number | null }[]
  /** What was pulled for beyond what goes up without a question. */
  beyond: { frequency: number, gain: number } | null
}
/** The filter in hand: where it was and where the pointer took hold. */
let drag: Drag | null = null
function take(event: PointerEvent, h: Handle) {
  if (event.button !== 0) return
  if (drag) return
  if (event.shiftKey) return shaping.toggleAlong(keyOf(h))
  const { currentTarget } = event
  const moves = shaping.along.includes(keyOf(h))
  if (!moves) shaping.along = []
  const others = shown.value.filter(o => moves && o !== h && shaping.along.includes(keyOf(o)))
  ;(currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  shaping.picked = keyOf(h)
  drag = {
    key: keyOf(h), pointer: event.pointerId, x: event.clientX, y: event.clientY, frequency: h.frequency, gain: h.gain,
    gesture: crypto.randomUUID(), beyond: null,
    others: others.map(o => ({ key: keyOf(o), frequency: o.frequency, gain: o.gain })),
  }
}
/** A second finger while one holds a filter: how far it was, and the width then. */
let pinch: { id: number, y: number, q: number } | null = null
function pinchFrom(event: PointerEvent) {
  const h = drag && now(drag.key)
  if (h?.q && event.pointerType === 'touch') pinch = { id: event.pointerId, y: event.clientY, q: h.q }
}
function pinched(event: PointerEvent) {
  const h = drag && now(drag.key)
  if (pinch?.id !== event.pointerId || !h?.range.q) return
  const q = pinch.q * 2 ** ((event.clientY - pinch.y) / 60)
  void shaping.change(h, { q: clamp(toStep(q, h.range.q.step), h.range.q) }, drag!.gesture)
}
useEventListener(window, 'pointerdown', pinchFrom, { capture: true })
useEventListener(window, 'pointermove', pinched, { capture: true })
useEventListener(window, 'pointerup', (event: PointerEvent) => {
  if (pinch?.id === event.pointerId) pinch = null
}, { capture: true })

/** Moves all that are picked by the same interval and the same decibels. */
function moveAll(h: Handle, ratio: number, gain: number | null) {
  const { others, gain: from, gesture } = drag!
  const own = { frequency: heldFrequency(h, drag!.frequency * ratio), ...(gain === null ? {} : { gain }) }
  const along = others.flatMap((o) => {
    const handle = now(o.key)
    if (!handle) return []
    const still = o.gain === null || gain === null || from === null
    const more = still ? {} : { gain: heldGain(handle, o.gain! + gain! - from!) }
    return [{ handle, numbers: { frequency: heldFrequency(handle, o.frequency * ratio), ...more } }]
  })
  void shaping.changeAll([{ handle: h, numbers: own }, ...along], gesture)
}
function move(event: PointerEvent) {
  const h = drag && now(drag.key)
  if (!drag || !h || event.pointerId !== drag.pointer) return
  const octaves = Math.log(props.x.max / props.x.min) * ((event.clientX - drag.x) / props.area.width)
  const frequency = heldFrequency(h, drag.frequency * Math.exp(octaves))
  const levels = ((drag.y - event.clientY) / props.area.height) * (props.max - props.min)
  if (drag.gain === null) {
    if (drag.others.length) return moveAll(h, Math.exp(octaves), null)
    return void shaping.change(h, { frequency }, drag.gesture)
  }
  const wanted = heldGain(h, drag.gain + levels)
  // under Live a drag goes up as far as needs no question; the rest is asked for when it ends
  const gain = site.live ? Math.min(wanted, drag.gain + mostLouder) : wanted
  if (drag.others.length) return moveAll(h, Math.exp(octaves), gain)
  drag.beyond = wanted > gain ? { frequency, gain: wanted } : null
  void shaping.change(h, { frequency, gain }, drag.gesture)
}
function drop(event: PointerEvent) {
  if (event.pointerId !== drag?.pointer) return
  const h = now(drag.key)
  if (drag.beyond && h) {
    void shaping.change(h, drag.beyond, drag.gesture)
  }
  drag = null
}
/** Puts the filter back to where it was taken hold of. */
function back() {
  const h = drag && now(drag.key)
  if (drag?.others.length && h) moveAll(h, 1, drag.gain)
  else if (drag && h) {
    const { frequency, gain } = drag
    void shaping.change(h, gain === null ? { frequency } : { frequency, gain }, drag.gesture)
  }
  drag = null
}
function widen(h: Handle, steps: number) {
  if (h.q === null || !h.range.q) return
  void shaping.change(h, { q: clamp(toStep(h.q * 2 ** (-steps / 8), h.range.q.step), h.range.q) })
}
function keyed(event: KeyboardEvent, h: Handle) {
  const fine = event.shiftKey ? 0.1 : 1
  const across = { ArrowRight: fine, ArrowLeft: -fine }[event.key]
  const up = { ArrowUp: fine, ArrowDown: -fine }[event.key]
  const wide = { PageUp: fine, PageDown: -fine }[event.key]
  if (across) void shaping.change(h, { frequency: heldFrequency(h, h.frequency * 2 ** (across / 12)) })
  else if (up && h.gain !== null) void shaping.change(h, { gain: heldGain(h, h.gain + up) })
  else if (wide) widen(h, wide)
  else if (event.key === 'Delete') void shaping.change(h, { on: false })
  else if (event.key === 'Escape' && drag) back()
  else return
  event.preventDefault()
  event.stopPropagation()
}
const said = (h: Handle) => {
  const q = h.q === null ? '' : `, Q ${showNumber(h.q, 2)}`
  const gain = h.gain === null ? '' : `, ${showLevel(h.gain)}`
  return `${h.name}: ${showFrequency(h.frequency)}${gain}${q}`
}
const label = (h: Handle) => `${isKind(h.setting, 'pass') ? h.name[0] : h.setting.parameter.index + 1}`
</script>

<template>
  <button
    v-for="h in shown"
    :key="keyOf(h)"
    class="handle num"
    :class="{ idle: !h.acts, picked: shaping.picked === keyOf(h) || shaping.along.includes(keyOf(h)) }"
    :style="{ left: `${acrossOf(h.frequency)}px`, top: `${downOf(h.gain ?? 0)}px` }"
    :data-handle="keyOf(h)"
    :aria-label="said(h)"
    :title="phrase('charts.dragIt', { filter: said(h) })"
    @pointerdown.stop="take($event, h)"
    @pointermove.stop="move"
    @pointerup.stop="drop"
    @pointercancel.stop="back"
    @click.stop
    @dblclick.stop
    @wheel.stop.prevent="widen(h, $event.deltaY > 0 ? 1 : -1)"
    @keydown="keyed($event, h)"
    @focus="shaping.picked = keyOf(h)"
  >
    {{ label(h) }}
  </button>
</template>

<style scoped>
.handle {
  position: absolute;
  width: 24px;
  height: 24px;
  margin: -12px 0 0 -12px;
  padding: 0;
  border: 2px solid var(--accent);
  border-radius: 50%;
  background: var(--paper);
  color: var(--ink);
  font-size: 0.78rem;
  line-height: 1;
  cursor: grab;
  touch-action: none;
}
.handle.idle {
  border-style: dashed;
  color: var(--ink-soft);
}
.handle.picked {
  background: var(--accent);
  color: var(--accent-ink);
}
.handle:focus-visible {
  outline: 3px solid var(--ink);
  outline-offset: 1px;
}
@media (pointer: coarse) {
  .handle {
    width: 44px;
    height: 44px;
    margin: -22px 0 0 -22px;
  }
}
</style>
