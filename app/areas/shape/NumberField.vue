<script setup lang="ts">
import type { Parsed } from '~~/core/units'

/** A number with its unit: takes what the trade types, shows what the device holds, says so when it cannot read it. */
const props = defineProps<{
  label: string
  value: number
  parse: (text: string) => Parsed
  show: (value: number) => string
  /** What one press of an arrow key does; Shift makes it ten. */
  nudge: (value: number, steps: number) => number
  /** The device's value where it differs. */
  held?: number | null
  compact?: boolean
}>()
const emit = defineEmits<{ change: [value: number] }>()

const text = ref(props.show(props.value))
const editing = ref(false)
const wrong = ref<string | null>(null)
watch(
  () => props.show(props.value),
  (shown) => {
    if (!editing.value) text.value = shown
  },
)

function commit() {
  const read = props.parse(text.value)
  if (!read.ok) {
    wrong.value = read.why
    return
  }
  wrong.value = null
  editing.value = false
  // a text that was not changed must not round what the device holds
  if (text.value !== props.show(props.value)) emit('change', read.value)
  text.value = props.show(props.value)
}
function begin(event: FocusEvent) {
  editing.value = true
  ;(event.target as HTMLInputElement).select()
}
function revert() {
  wrong.value = null
  editing.value = false
  text.value = props.show(props.value)
}
function key(event: KeyboardEvent) {
  if (event.key === 'Enter') commit()
  else if (event.key === 'Escape') {
    event.stopPropagation()
    revert()
  }
  else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
    event.preventDefault()
    editing.value = false
    emit('change', props.nudge(props.value, (event.key === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? 10 : 1)))
  }
}
</script>

<template>
  <label
    class="field"
    :class="{ compact }"
  >
    <span class="name small">{{ label }}</span>
    <input
      v-model="text"
      class="num"
      :aria-label="label"
      :aria-invalid="!!wrong"
      autocomplete="off"
      spellcheck="false"
      @focus="begin"
      @input="editing = true"
      @blur="commit"
      @keydown="key"
    >
    <span
      v-if="wrong"
      class="wrong small"
      role="alert"
    >{{ wrong }}</span>
    <span
      v-else-if="held !== undefined && held !== null && held !== value"
      class="held small"
      :title="'What the device holds now'"
    >in device {{ show(held) }}</span>
  </label>
</template>

<style scoped>
.field {
  display: grid;
  gap: 0.1rem;
  min-width: 0;
  align-content: start;
}
.name {
  color: var(--ink-soft);
}
.compact .name {
  position: absolute;
  clip-path: inset(50%);
  width: 1px;
  height: 1px;
  overflow: hidden;
}
input {
  width: 100%;
  min-width: 0;
  height: 34px;
  padding: 0 0.45rem;
  border: 1px solid var(--rule-strong);
  border-radius: 3px;
  background: var(--paper);
  color: var(--ink);
  font-size: 1rem;
}
input[aria-invalid='true'] {
  border-color: var(--error);
}
.wrong {
  color: var(--error);
}
.held {
  color: var(--warn);
}
@media (pointer: coarse) {
  input {
    height: 44px;
  }
}
</style>
