<script setup lang="ts">
import InputText from 'primevue/inputtext'

/** What is looked for: every letter counts at once. `beside`: a field among others, which takes no focus by itself. */
defineProps<{ label: string, value: string, placeholder?: string, beside?: boolean }>()
const emit = defineEmits<{ 'update:value': [value: string] }>()
</script>

<template>
  <InputText
    :model-value="value"
    :class="{ find: !beside }"
    :size="beside ? 'small' : undefined"
    :fluid="!beside"
    :autofocus="!beside"
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
