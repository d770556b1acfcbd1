<script setup lang="ts">
/** A line of text: what is being typed stays, whatever arrives from elsewhere meanwhile; Escape takes it back. */
const props = defineProps<{ value: string, label: string, placeholder?: string, maxlength?: number }>()
const emit = defineEmits<{ change: [value: string] }>()

const text = ref(props.value)
const editing = ref(false)
watch(
  () => props.value,
  (value) => {
    if (!editing.value) text.value = value
  },
)
function commit() {
  editing.value = false
  if (text.value !== props.value) emit('change', text.value)
}
function revert(event: KeyboardEvent) {
  if (!editing.value) return
  event.stopPropagation()
  editing.value = false
  text.value = props.value
}
</script>

<template>
  <input
    v-model="text"
    class="text"
    :aria-label="label"
    :placeholder="placeholder"
    :maxlength="maxlength"
    @input="editing = true"
    @keydown.enter="commit"
    @keydown.escape="revert"
    @blur="commit"
  >
</template>
