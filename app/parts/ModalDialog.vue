<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import Dialog from 'primevue/dialog'

/** A dialog over everything else: it holds the focus, and gives it back to what had it. */
const props = defineProps<{ open: boolean, title: string, width?: string, bare?: boolean, closable?: boolean }>()
const emit = defineEmits<{ close: [] }>()
let opener: HTMLElement | null = null
/** What was left for nothing else: a field that sends by Enter is left before the server's question comes. */
let left: HTMLElement | null = null
useEventListener(document, 'focusout', ({ target, relatedTarget }) => {
  left = relatedTarget ? null : target as HTMLElement
})
useEventListener(document, 'focusin', () => {
  left = null
})
watch(
  () => props.open,
  (open) => {
    if (!open) return
    opener = document.activeElement === document.body && left ? left : document.activeElement as HTMLElement | null
  },
  { flush: 'sync' },
)
const named = { root: { 'aria-labelledby': undefined }, content: { style: 'padding: 0.75rem' } }
</script>

<template>
  <Dialog
    :visible="open"
    modal
    :closable="closable !== false"
    :header="bare ? undefined : title"
    :show-header="!bare"
    :aria-label="bare ? title : undefined"
    :position="bare ? 'top' : 'center'"
    :style="{ width: `min(${width ?? '30rem'}, 94vw)` }"
    v-bind="bare ? { pt: named } : {}"
    @update:visible="emit('close')"
    @after-hide="opener?.isConnected && opener.focus()"
  >
    <slot />
    <template
      v-if="$slots.footer"
      #footer
    >
      <slot name="footer" />
    </template>
  </Dialog>
</template>
