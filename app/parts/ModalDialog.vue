<script setup lang="ts">
import Dialog from 'primevue/dialog'

/** A dialog over everything else: it holds the focus, and gives it back to what had it. */
const props = defineProps<{ open: boolean, title: string, width?: string, bare?: boolean, closable?: boolean }>()
const emit = defineEmits<{ close: [] }>()
let opener: HTMLElement | null = null
/** What was left just now: a field that sends by Enter is left before its question is asked. */
let left: { element: HTMLElement, at: number } | null = null
const justNow = 300
useEventListener(document, 'focusout', ({ target }) => {
  left = { element: target as HTMLElement, at: performance.now() }
})
watch(
  () => props.open,
  (open) => {
    if (!open) return
    const { activeElement } = document
    opener = activeElement as HTMLElement | null
    if (activeElement === document.body && left && performance.now() - left.at < justNow) opener = left.element
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
