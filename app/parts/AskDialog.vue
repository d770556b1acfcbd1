<script setup lang="ts">
import { phrase } from '~/parts/phrase'

/** One question before what cannot be taken back. */
defineProps<{ open: boolean, title: string, yes: string }>()
const emit = defineEmits<{ yes: [], close: [] }>()
</script>

<template>
  <ModalDialog
    :open="open"
    :title="title"
    @close="emit('close')"
  >
    <slot />
    <template #footer>
      <ActionButton
        severity="secondary"
        :label="phrase('common.cancel')"
        autofocus
        @click="emit('close')"
      />
      <ActionButton
        severity="danger"
        :label="yes"
        @click="emit('yes')"
      />
    </template>
  </ModalDialog>
</template>
