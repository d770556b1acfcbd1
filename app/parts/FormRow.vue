<script setup lang="ts">
/** A field under its label, or beside it; bare where what stands around it names it already. */
withDefaults(defineProps<{ label: string, layout?: 'above' | 'beside' | 'bare', for?: string | undefined }>(), {
  layout: 'above',
  for: undefined,
})
</script>

<template>
  <div
    class="form-row"
    :class="layout"
  >
    <label
      v-if="layout !== 'bare'"
      class="name"
      :for="$props.for"
    >{{ label }}</label>
    <div class="field">
      <slot />
    </div>
  </div>
</template>

<style scoped>
.form-row {
  display: grid;
  gap: 0.1rem;
  min-width: 0;
  align-content: start;
}
.beside {
  grid-template-columns: 84px minmax(0, 1fr);
  align-items: center;
}
.name {
  color: var(--ink-soft);
  font-size: 0.86rem;
}
.field {
  display: grid;
  gap: 0.1rem;
  min-width: 0;
}
</style>
