<script setup lang="ts">
import { usePressed } from './usePressed'
import { phrase } from '~/parts/phrase'

/**
 * The line under a field: what is wrong with it, what arrived while somebody is in it, or what the device holds. It
 * keeps its place while a pointer is pressed: what stands below must not move away from under it.
 */
const props = defineProps<{
  wrong?: string | null | undefined
  /** What it is now, as somebody else has made it meanwhile. */
  now?: string | null | undefined
  by?: string | null | undefined
  held?: string | null | undefined
}>()
const isPressed = usePressed()
const shown = shallowRef({ ...props })
watch([() => ({ ...props }), isPressed], ([next]) => {
  if (!isPressed.value) shown.value = next
})
</script>

<template>
  <span
    v-if="shown.wrong"
    class="note wrong"
    role="alert"
  >{{ shown.wrong }}</span>
  <span
    v-else-if="shown.now"
    class="note now"
    role="status"
  >{{ phrase('parts.now', { now: shown.now, by: shown.by ? phrase('parts.by', { by: shown.by }) : '' }) }}</span>
  <span
    v-else-if="shown.held"
    class="note held"
    :title="phrase('parts.whatTheDeviceHolds')"
  >{{ phrase('common.inDevice', { held: shown.held }) }}</span>
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
