<script setup lang="ts">
import Button from 'primevue/button'

/** A button that does something; whatever is said of it here is the library's own word. */
defineOptions({ inheritAttrs: false })
</script>

<template>
  <Button v-bind="$attrs">
    <template
      v-if="$slots.default"
      #default
    >
      <slot />
    </template>
  </Button>
</template>
