<script setup lang="ts">
import Checkbox from 'primevue/checkbox'
import { useEntry } from './useEntry'
import { phrase } from '~/parts/phrase'

/** Yes or no, with its words beside it; the words may stand in the slot. */
const props = withDefaults(
  defineProps<{
    label: string
    value: boolean
    name?: string | undefined
    bare?: boolean
    held?: string | null
    by?: string | null
  }>(),
  { name: undefined, held: null, by: null },
)
const emit = defineEmits<{ 'change': [value: boolean], 'update:value': [value: boolean] }>()
const id = useId()
const entry = useEntry(() => props.value)
/** What is shown: for a moment the new answer, then whatever has become of it. */
const shown = ref(props.value)
watch(
  () => props.value,
  (value) => {
    shown.value = value
  },
)
async function pick(value: boolean) {
  shown.value = value
  entry.sends(value)
  emit('change', value)
  emit('update:value', value)
  await nextTick()
  shown.value = props.value
}
</script>

<template>
  <div
    class="check"
    :class="{ bare }"
  >
    <Checkbox
      :model-value="shown"
      binary
      :input-id="id"
      size="small"
      :aria-label="name ?? label"
      @update:model-value="pick"
      @focus="entry.enter"
      @blur="entry.leave"
    />
    <label
      v-if="!bare"
      :for="id"
    ><slot>{{ label }}</slot></label>
    <FieldNote
      :now="entry.arrived.value && (entry.arrived.value.value ? phrase('parts.on') : phrase('parts.off'))"
      :by="by"
      :held="held"
    />
  </div>
</template>

<style scoped>
.check {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.2rem 0.5rem;
  min-height: 24px;
}
.check > label {
  flex: 1;
  min-width: 0;
  cursor: pointer;
}
.check.bare {
  justify-content: center;
}
@media (pointer: coarse) {
  .check {
    min-height: 44px;
  }
}
</style>
