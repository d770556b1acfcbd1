<script setup lang="ts">
import Button from 'primevue/button'
import Popover from 'primevue/popover'
import { giveBack } from './giveBack'

/** A button that opens a leaf beside it; Escape or a click elsewhere closes it, and focus goes back. */
defineOptions({ inheritAttrs: false })
const props = defineProps<{ label: string, name?: string | undefined, title?: string, icon?: string }>()
const leaf = ref<InstanceType<typeof Popover> | null>(null)
const button = ref<{ $el: HTMLElement } | null>(null)
const open = ref(false)
/** The leaf is made when it is first wanted: most of the many are never opened. */
const wanted = ref(false)
const called = computed(() => props.name ?? props.label)
async function press() {
  wanted.value = true
  await nextTick()
  // an event has forgotten by now where it was: a second press is to close the leaf
  const at: Pick<Event, 'currentTarget'> = { currentTarget: button.value!.$el }
  leaf.value?.toggle(at as Event)
}
function closed() {
  open.value = false
  giveBack(button.value?.$el, '.p-popover')
}
</script>

<template>
  <Button
    ref="button"
    size="small"
    text
    severity="secondary"
    v-bind="$attrs"
    :icon="icon"
    :label="label || undefined"
    :aria-label="called"
    :aria-expanded="open"
    :title="title"
    @click="press"
  />
  <Popover
    v-if="wanted"
    ref="leaf"
    :pt="{ root: { 'aria-label': called } }"
    @show="open = true"
    @hide="closed"
  >
    <slot />
  </Popover>
</template>
