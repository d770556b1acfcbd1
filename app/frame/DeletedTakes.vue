<script setup lang="ts">
import type { Take } from '~~/core/documents'
import { ask } from '~/utils/api'
import { clockOf } from '~/utils/clock'

/** Takes of the picked cell that were deleted: each can be brought back, or goes for good. */
const props = defineProps<{ source: string, position: string }>()
const site = useSite()
const takes = useTakes()
const notices = useNotices()
const isHere = (t: Take) => t.source === props.source && t.position === props.position
const deleted = computed(() => site.takes.filter(t => t.deleted && isHere(t)))
const going = ref<Take | null>(null)
async function forGood() {
  const take = going.value!
  going.value = null
  await ask(site.path(`/takes/${encodeURIComponent(take.id)}`), { method: 'DELETE' }).catch(notices.fail)
}
</script>

<template>
  <FoldSection
    v-if="deleted.length"
    id="deleted-takes"
    :title="`Deleted takes (${deleted.length})`"
  >
    <ul>
      <li
        v-for="t in deleted"
        :key="t.id"
        :data-deleted-take="t.id"
      >
        {{ t.name }} <span class="soft small">{{ clockOf(t.at) }}, {{ t.who }}</span>
        <div class="row">
          <ActionButton
            size="small"
            text
            label="Bring back"
            :aria-label="`Bring back ${t.name}`"
            @click="takes.change(t.id, { deleted: false })"
          /><ActionButton
            size="small"
            text
            severity="danger"
            label="Delete for good …"
            :aria-label="`Delete ${t.name} for good …`"
            @click="going = t"
          />
        </div>
      </li>
    </ul>
    <AskDialog
      :open="going !== null"
      title="Delete for good?"
      yes="Delete for good"
      @yes="forGood"
      @close="going = null"
    >
      <p>“{{ going?.name }}” goes with what the history says of it, and cannot be brought back.</p>
    </AskDialog>
  </FoldSection>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
p {
  margin: 0;
}
</style>
