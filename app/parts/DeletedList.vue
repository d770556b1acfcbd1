<script setup lang="ts">
import { phrase } from '~/parts/phrase'

/** Things that were deleted: each can be brought back, or goes for good after one question (the slot). */
export interface DeletedItem {
  id: string
  name: string
  /** Since when, by whom. */
  about: string
}
defineProps<{ id: string, title: string, items: readonly DeletedItem[] }>()
defineSlots<{ default(about: { name: string }): unknown }>()
const emit = defineEmits<{ back: [id: string], gone: [id: string] }>()
const going = ref<DeletedItem | null>(null)
function forGood() {
  const { id } = going.value!
  going.value = null
  emit('gone', id)
}
</script>

<template>
  <FoldSection
    v-if="items.length"
    :id="id"
    :title="`${title} (${items.length})`"
  >
    <ul>
      <li
        v-for="t in items"
        :key="t.id"
        :data-deleted="t.id"
      >
        <span>
          <b>{{ t.name }}</b>
          <span class="soft small">{{ t.about }}</span>
        </span>
        <span class="row">
          <ActionButton
            size="small"
            text
            :label="phrase('common.restore')"
            :aria-label="phrase('parts.restore', { name: t.name })"
            @click="emit('back', t.id)"
          /><ActionButton
            size="small"
            text
            severity="danger"
            :label="phrase('parts.deleteForGood')"
            :aria-label="phrase('parts.deleteForGood2', { name: t.name })"
            @click="going = t"
          />
        </span>
      </li>
    </ul>
    <AskDialog
      :open="going !== null"
      :title="phrase('parts.deleteForGood3')"
      :yes="phrase('parts.deleteForGood4')"
      @yes="forGood"
      @close="going = null"
    >
      <p>
        <slot v-bind="going ?? { name: '' }" />
      </p>
    </AskDialog>
  </FoldSection>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
}
b {
  margin-right: 0.75rem;
}
p {
  margin: 0;
}
</style>
