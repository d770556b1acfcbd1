<script setup lang="ts" generic="T">
import { useLocalStorage } from '@vueuse/core'
import Splitter from 'primevue/splitter'
import SplitterPanel from 'primevue/splitterpanel'

/** Things under one another whose shares of the height are pulled at the lines between them, and kept. */
const props = defineProps<{
  id: string
  items: readonly T[]
  itemKey: (item: T) => string | number
  weight: (item: T) => number
}>()
const kept = useLocalStorage<Record<string, number[]>>('kovrin-shares', {})
const which = computed(() => `${props.id} ${props.items.map(props.itemKey).join(' ')} ${props.items.length}`)
const shares = computed(() => {
  const own = kept.value[which.value]
  if (own?.length === props.items.length) return own
  const all = props.items.reduce((sum, item) => sum + props.weight(item), 0)
  return props.items.map(item => (100 * props.weight(item)) / all)
})
</script>

<template>
  <Splitter
    :key="which"
    layout="vertical"
    class="stack"
    :gutter-size="6"
    @resizeend="kept = { ...kept, [which]: $event.sizes }"
  >
    <SplitterPanel
      v-for="(item, n) in items"
      :key="itemKey(item)"
      :size="shares[n]!"
      :min-size="12"
    >
      <slot :item="item" />
    </SplitterPanel>
  </Splitter>
</template>

<style scoped>
.stack {
  height: 100%;
  border: 0;
  background: transparent;
}
.stack :deep(.p-splitterpanel) {
  min-height: 0;
  overflow: hidden;
}
.stack :deep(.p-splitter-gutter) {
  background: transparent;
}
.stack :deep(.p-splitter-gutter:hover) {
  background: var(--rule);
}
</style>
