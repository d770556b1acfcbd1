<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
/** What is needed now and then: folds under its heading, and is found as it was left. */
const props = defineProps<{ id: string, title: string }>()
const open = useLocalStorage(`kovrin-fold-${props.id}`, false)
const body = useId()
</script>

<template>
  <div class="fold">
    <button
      type="button"
      class="plain"
      :aria-expanded="open"
      :aria-controls="body"
      @click="open = !open"
    >
      <i
        class="pi"
        :class="open ? 'pi-chevron-down' : 'pi-chevron-right'"
        aria-hidden="true"
      /> {{ title }}
    </button>
    <div
      v-if="open"
      :id="body"
      class="body"
    >
      <slot />
    </div>
  </div>
</template>

<style scoped>
button {
  color: var(--ink-soft);
  font-size: 0.86rem;
  min-height: 26px;
}
.pi {
  font-size: 0.7rem;
}
.body {
  display: grid;
  gap: 0.4rem;
  padding-top: 0.3rem;
}
@media (pointer: coarse) {
  button {
    min-height: 44px;
  }
}
</style>
