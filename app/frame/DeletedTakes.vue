<script setup lang="ts">
import { ask } from '~/document/api'
import { clockOf } from '~/parts/clock'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import { useNotices } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

/** Takes of the picked cell that were deleted: each can be brought back, or goes for good. */
const props = defineProps<{ source: string, position: string }>()
const site = useSite()
const takes = useTakes()
const notices = useNotices()
const deleted = computed(() => site.takes
  .filter(t => t.deleted && t.source === props.source && t.position === props.position)
  .map(({ id, name, at, who }) => ({ id, name, about: `${clockOf(at)}, ${who}` })))
const forGood = (id: string) =>
  ask(site.path(`/takes/${encodeURIComponent(id)}`), { method: 'DELETE' }).catch(notices.fail)
</script>

<template>
  <DeletedList
    id="deleted-takes"
    :title="phrase('frame.deletedTakes')"
    :items="deleted"
    @back="takes.change($event, { deleted: false })"
    @gone="forGood"
  >
    <template #default="{ name }">
      {{ phrase('frame.goesWithWhatThe', { name }) }}
    </template>
  </DeletedList>
</template>
