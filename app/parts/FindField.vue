<script setup lang="ts">
import InputText from 'primevue/inputtext'

/** What is looked for: every letter counts at once. */
defineProps<{ label: string, value: string, placeholder?: string }>()
const emit = defineEmits<{ 'update:value': [value: string] }>()
</script>

<template>
  <InputText
    :model-value="value"
    class="find"
    fluid
    autofocus
    :aria-label="label"
    :placeholder="placeholder"
    autocomplete="off"
    @update:model-value="emit('update:value', $event ?? '')"
  />
</template>

<style scoped>
.find {
  height: 42px;
  font-size: 1.1rem;
}
</style>
