<script setup lang="ts">
/** The line under a field: what is wrong with it, what arrived while somebody is in it, or what the device holds. */
defineProps<{
  wrong?: string | null | undefined
  /** What it is now, as somebody else has made it meanwhile. */
  now?: string | null | undefined
  by?: string | null | undefined
  held?: string | null | undefined
}>()
</script>

<template>
  <span
    v-if="wrong"
    class="note wrong"
    role="alert"
  >{{ wrong }}</span>
  <span
    v-else-if="now"
    class="note now"
    role="status"
  >now {{ now }}{{ by ? ` by ${by}` : '' }}</span>
  <span
    v-else-if="held"
    class="note held"
    title="What the device holds now"
  >in device {{ held }}</span>
</template>

<style scoped>
.note {
  font-size: 0.86rem;
}
.wrong {
  color: var(--error);
}
.now,
.held {
  color: var(--warn);
}
</style>
