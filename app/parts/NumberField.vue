<script setup lang="ts">
import InputText from 'primevue/inputtext'
import type { Parsed } from '~~/core/units'
import { useEntry } from './useEntry'
import { phrase } from '~/parts/phrase'

/**
 * A number with its unit: takes what the trade types, shows what the device holds, says so when it cannot read it.
 * Arrow keys, the wheel while it is focused, and a drag to the side nudge it; Shift makes ten of one.
 */
const props = withDefaults(
  defineProps<{
    label: string
    /** What it is called where the label alone is not enough. */
    name?: string | undefined
    value: number
    parse: (text: string) => Parsed
    show: (value: number) => string
    /** What so many presses of an arrow key make of a value. */
    nudge: (value: number, steps: number) => number
    /** The device's value where it differs. */
    held?: number | null
    /** Who made it what it is now. */
    by?: string | null
    layout?: 'above' | 'beside' | 'bare'
  }>(),
  { name: undefined, held: null, by: null, layout: 'above' },
)
const emit = defineEmits<{ 'change': [value: number], 'update:value': [value: number] }>()

const id = useId()
const entry = useEntry(() => props.value)
const text = ref(props.show(props.value))
const typed = ref(false)
const wrong = ref<string | null>(null)
const showNow = () => {
  text.value = props.show(props.value)
}
watch(
  () => props.show(props.value),
  () => {
    if (!typed.value && !entry.arrived.value) showNow()
  },
)
function send(value: number) {
  entry.sends(value)
  emit('change', value)
  emit('update:value', value)
}

/** False when what is typed cannot be read: it stays, with the reason. */
function commit(): boolean {
  // a text that was not changed must not round what the device holds
  if (!typed.value || text.value === props.show(props.value)) return true
  const read = props.parse(text.value)
  wrong.value = read.ok ? null : read.why
  if (!read.ok) return false
  typed.value = false
  send(read.value)
  return true
}
function leave() {
  const kept = commit()
  entry.leave()
  if (!kept) return
  typed.value = false
  void nextTick(showNow)
}
function restore() {
  wrong.value = null
  typed.value = false
  showNow()
}
function step(steps: number) {
  wrong.value = null
  typed.value = false
  send(props.nudge(props.value, steps))
  void nextTick(showNow)
}

const input = (event: Event) => event.target as HTMLInputElement
function key(event: KeyboardEvent) {
  if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
    event.preventDefault()
    return step((event.key === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? 10 : 1))
  }
  if (event.key !== 'Enter' && event.key !== 'Escape') return
  event.stopPropagation()
  if (event.key === 'Escape') restore()
  else event.preventDefault() // what it opens must not be answered by the same key
  if (event.key === 'Escape' || commit()) input(event).blur()
}
function wheel(event: WheelEvent) {
  if (document.activeElement !== event.target || !event.deltaY) return
  event.preventDefault()
  step((event.deltaY < 0 ? 1 : -1) * (event.shiftKey ? 10 : 1))
}

/** Pixels of a drag to the side that are one step, and before which it is a click. */
const stepWidth = 6
let dragged: { from: number, steps: number, moved: boolean } | null = null
function press(event: PointerEvent) {
  if (event.button !== 0 || document.activeElement === event.target) return
  event.preventDefault() // a drag is no selection; a click focuses when it ends
  dragged = { from: event.clientX, steps: 0, moved: false }
  input(event).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent) {
  if (!dragged) return
  const steps = Math.trunc((event.clientX - dragged.from) / stepWidth)
  if (steps === dragged.steps) return
  step((steps - dragged.steps) * (event.shiftKey ? 10 : 1))
  dragged.steps = steps
  dragged.moved = true
}
function release(event: PointerEvent) {
  if (dragged && !dragged.moved && event.type === 'pointerup') input(event).focus()
  dragged = null
}
function enter(event: FocusEvent) {
  entry.enter()
  input(event).select()
}
const held = computed(() => (props.held !== null && props.held !== props.value ? props.show(props.held) : null))
</script>

<template>
  <FormRow
    :label="label"
    :layout="layout"
    :for="id"
  >
    <InputText
      :id="id"
      v-model="text"
      class="num"
      size="small"
      fluid
      :aria-label="name ?? label"
      :invalid="!!wrong"
      autocomplete="off"
      spellcheck="false"
      :title="phrase('parts.typeDragSidewaysOr')"
      @focus="enter"
      @input="typed = true"
      @blur="leave"
      @keydown="key"
      @wheel="wheel"
      @pointerdown="press"
      @pointermove="drag"
      @pointerup="release"
      @pointercancel="release"
    />
    <FieldNote
      :wrong="wrong"
      :now="entry.arrived.value ? show(entry.arrived.value.value) : null"
      :by="by"
      :held="held"
    />
  </FormRow>
</template>

<style scoped>
.num {
  touch-action: pan-y;
  min-width: 0;
}
.num:not(:focus) {
  cursor: ew-resize;
}
</style>
