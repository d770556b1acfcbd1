<script setup lang="ts">
import InputText from 'primevue/inputtext'
import { useEntry } from './useEntry'

/**
 * A line of text: what is being typed stays, whatever arrives from elsewhere meanwhile. Enter keeps it, Escape takes
 * it back; both leave the field.
 */
const props = withDefaults(
  defineProps<{
    label: string
    value: string
    name?: string | undefined
    layout?: 'above' | 'beside' | 'bare'
    placeholder?: string | undefined
    maxlength?: number | undefined
    by?: string | null
    autofocus?: boolean
    /** Why what is typed cannot be; it stays then, with the reason. */
    check?: ((text: string) => string | null) | undefined
  }>(),
  { name: undefined, layout: 'above', placeholder: undefined, maxlength: undefined, by: null, check: undefined },
)
const emit = defineEmits<{ 'change': [value: string], 'update:value': [value: string], 'leave': [] }>()

const id = useId()
const entry = useEntry(() => props.value)
const text = ref(props.value)
const typed = ref(false)
const wrong = ref<string | null>(null)
const showNow = () => {
  text.value = props.value
}
watch(
  () => props.value,
  (value) => {
    if (!typed.value && !entry.arrived.value) text.value = value
  },
)
/** False when what is typed cannot be: it stays, with the reason. */
function commit(): boolean {
  const isNew = typed.value && text.value !== props.value
  wrong.value = isNew ? props.check?.(text.value) ?? null : null
  if (wrong.value !== null) return false
  if (isNew) {
    entry.sends(text.value)
    emit('change', text.value)
    emit('update:value', text.value)
  }
  typed.value = false
  return true
}
function leave() {
  const kept = commit()
  entry.leave()
  if (kept) void nextTick(showNow)
  emit('leave')
}
function key(event: KeyboardEvent) {
  if (event.key !== 'Enter' && event.key !== 'Escape') return
  event.stopPropagation()
  if (event.key === 'Escape') {
    typed.value = false
    text.value = props.value
  }
  else event.preventDefault() // what it opens must not be answered by the same key
  ;(event.target as HTMLInputElement).blur()
}
const field = ref<{ $el: HTMLInputElement } | null>(null)
onMounted(() => {
  if (!props.autofocus) return
  field.value?.$el.focus()
  field.value?.$el.select()
})
</script>

<template>
  <FormRow
    :label="label"
    :layout="layout"
    :for="id"
  >
    <InputText
      :id="id"
      ref="field"
      v-model="text"
      size="small"
      fluid
      :aria-label="name ?? label"
      :placeholder="placeholder"
      :maxlength="maxlength"
      :invalid="!!wrong"
      autocomplete="off"
      @focus="entry.enter"
      @input="typed = true"
      @keydown="key"
      @blur="leave"
    />
    <FieldNote
      :wrong="wrong"
      :now="entry.arrived.value ? `“${entry.arrived.value.value}”` : null"
      :by="by"
    />
  </FormRow>
</template>
