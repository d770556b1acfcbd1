<script setup lang="ts">
import Slider from 'primevue/slider'

/** A value between two ends, with what it says beside it. */
const props = withDefaults(
  defineProps<{
    label: string
    value: number
    min: number
    max: number
    step?: number
    show: (value: number) => string
    name?: string | undefined
    layout?: 'above' | 'beside' | 'bare'
  }>(),
  { step: 1, name: undefined, layout: 'bare' },
)
const emit = defineEmits<{ 'change': [value: number], 'update:value': [value: number] }>()
function pick(value: number | number[]) {
  const next = Array.isArray(value) ? value[0]! : value
  if (next === props.value) return
  emit('change', next)
  emit('update:value', next)
}
</script>

<template>
  <FormRow
    :label="label"
    :layout="layout"
  >
    <div class="slider">
      <Slider
        :model-value="value"
        :min="min"
        :max="max"
        :step="step"
        :aria-label="name ?? label"
        :pt="{ handle: { 'aria-label': name ?? label, 'aria-valuetext': show(value) } }"
        @update:model-value="pick"
      /><span class="num">{{ show(value) }}</span>
    </div>
  </FormRow>
</template>

<style scoped>
.slider {
  display: flex;
  align-items: center;
  gap: 0.8rem;
  padding-left: 10px;
  min-height: 34px;
}
.slider :deep(.p-slider) {
  flex: 1;
  min-width: 60px;
}
.num {
  font-size: 0.86rem;
  white-space: nowrap;
}
@media (pointer: coarse) {
  .slider {
    min-height: 44px;
  }
}
</style>
