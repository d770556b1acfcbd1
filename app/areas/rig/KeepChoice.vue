<script setup lang="ts">
import { phrase } from '~/parts/phrase'

/** Whose setting stays where a device and this site differ: the device's, or the one of here. */
defineProps<{
  what: string
  plain?: boolean
  disabled?: boolean
  /** It is not connected: nothing can go into it. */
  away?: boolean
}>()
const emit = defineEmits<{ keep: [whose: 'device' | 'here'] }>()
</script>

<template>
  <span class="choice">
    <ActionButton
      size="small"
      severity="secondary"
      :text="!!plain"
      :label="phrase('rig.keepDevices')"
      :aria-label="phrase('rig.keepDevicesOf', { what })"
      :disabled="disabled"
      @click="emit('keep', 'device')"
    />
    <ActionButton
      size="small"
      :text="!!plain"
      :label="phrase('rig.keepMine')"
      :aria-label="phrase('rig.keepMineOf', { what })"
      :disabled="disabled || away"
      @click="emit('keep', 'here')"
    />
  </span>
</template>

<style scoped>
.choice {
  display: inline-flex;
  gap: 0.3rem;
  white-space: nowrap;
}
</style>
