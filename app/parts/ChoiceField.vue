<script setup lang="ts" generic="T extends string | number | boolean | null">
import Select from 'primevue/select'
import type { Choice } from './choices'
import { useEntry } from './useEntry'
import { useStayOpen } from './useStayOpen'
import { phrase } from '~/parts/phrase'

/** One of several: a list to pick from, with a search where it is long. Letters never change it while it is closed. */
const props = withDefaults(
  defineProps<{
    label: string
    value: T
    options: readonly Choice<T>[]
    /** What it is called where the label alone is not enough; holds the label. */
    name?: string | undefined
    layout?: 'above' | 'beside' | 'bare'
    /** Shown when the value is none of the options. */
    placeholder?: string | undefined
    held?: string | null
    by?: string | null
    disabled?: boolean
  }>(),
  { name: undefined, layout: 'above', placeholder: phrase('parts.own'), held: null, by: null },
)
const emit = defineEmits<{ 'change': [value: T], 'update:value': [value: T] }>()

const long = 12
const entry = useEntry(() => props.value)
const keyOf = (value: T) => {
  const n = props.options.findIndex(o => o.value === value)
  return n < 0 ? null : String(n)
}
/** What the list shows as picked: for a moment the new pick, then whatever has become of it. */
const picked = ref(keyOf(props.value))
const keyNow = computed(() => keyOf(props.value))
watch(keyNow, (key) => {
  picked.value = key
})
async function pick(key: string) {
  const { value } = props.options[Number(key)]!
  picked.value = key
  entry.sends(value)
  emit('change', value)
  emit('update:value', value)
  await nextTick()
  picked.value = keyNow.value
}

interface Entry {
  key: string
  label: string
}
const entries = computed<(Entry & { group: string | undefined })[]>(() =>
  props.options.map((o, n) => ({ key: String(n), label: o.label, group: o.group })))
const grouped = computed(() => props.options.some(o => o.group))
const lists = computed(() =>
  grouped.value
    ? [...Map.groupBy(entries.value, e => e.group ?? '')].map(([label, items]) => ({ label, items }))
    : entries.value)
const arrived = computed(() => {
  const now = entry.arrived.value
  return now && (props.options.find(o => o.value === now.value)?.label ?? String(now.value))
})

/** While it is closed its letters belong to the commands, not to the list. */
function guard(event: KeyboardEvent) {
  const letter = event.key.length === 1 && event.key !== ' ' && !event.ctrlKey && !event.metaKey && !event.altKey
  if (letter && !entry.inside.value) event.stopPropagation()
}
const part = ref<unknown>(null)
const stay = useStayOpen(part)
const called = computed(() => props.name ?? props.label)
const unseen = { tabindex: -1 } // what nobody sees is no stop of the Tab key
const passed = computed(() => ({
  overlay: { 'role': 'region', 'aria-label': phrase('parts.whatCanBePicked', { called: called.value }) },
  listContainer: { tabindex: 0 },
  pcFilter: { root: { 'aria-label': phrase('parts.findIn', { called: called.value }) } },
  hiddenFirstFocusableEl: unseen,
  hiddenLastFocusableEl: unseen,
}))
</script>

<template>
  <FormRow
    :label="label"
    :layout="layout"
    class="choice"
    @keydown.capture="guard"
  >
    <Select
      ref="part"
      :model-value="picked"
      :options="lists"
      option-label="label"
      option-value="key"
      v-bind="grouped ? { optionGroupLabel: 'label', optionGroupChildren: 'items' } : {}"
      :filter="options.length > long"
      auto-filter-focus
      reset-filter-on-hide
      :filter-fields="['label']"
      :placeholder="placeholder"
      scroll-height="22rem"
      :aria-label="called"
      :disabled="disabled"
      size="small"
      fluid
      :pt="passed"
      @update:model-value="pick"
      @before-show="entry.enter"
      @show="stay.shown"
      @hide="(stay.hidden(), entry.leave())"
    />
    <FieldNote
      :now="arrived"
      :by="by"
      :held="held"
    />
  </FormRow>
</template>

<style scoped>
.choice :deep(.p-select) {
  min-width: 0;
}
</style>
