<script setup lang="ts" generic="T extends string | number | boolean">
import SelectButton from 'primevue/selectbutton'
import type { Choice } from './choices'

/** One of a few, all in view. */
const props = withDefaults(
  defineProps<{
    label: string
    value: T
    options: readonly Choice<T>[]
    name?: string | undefined
    layout?: 'above' | 'beside' | 'bare'
  }>(),
  { name: undefined, layout: 'above' },
)
const emit = defineEmits<{ 'change': [value: T], 'update:value': [value: T] }>()
function pick(value: T | null) {
  if (value === null || value === props.value) return
  emit('change', value)
  emit('update:value', value)
}
</script>

<template>
  <FormRow
    :label="label"
    :layout="layout"
  >
    <SelectButton
      :model-value="value"
      :options="[...options]"
      option-label="label"
      option-value="value"
      :allow-empty="false"
      :aria-label="name ?? label"
      role="group"
      size="small"
      @update:model-value="pick"
    />
  </FormRow>
</template>
