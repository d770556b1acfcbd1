<script setup lang="ts">
import type { ListedSite } from '~~/core/contract'
import { contentOf } from '~~/core/documents'
import { ask } from '~/utils/api'

/** Sites that were deleted: each can be brought back, or goes for good. */
const emit = defineEmits<{ back: [] }>()
const notices = useNotices()
const sites = ref<{ id: string, name: string, touchedAt: string }[]>([])
const going = ref<(typeof sites.value)[number] | null>(null)

async function load() {
  try {
    const listed = await ask<ListedSite[]>('/api/sites?deleted=true')
    sites.value = listed.map(({ id, touchedAt, documents }) =>
      ({ id, touchedAt, name: contentOf(documents, 'site')!.name }))
  }
  catch (error) { notices.fail(error) }
}
onMounted(load)
defineExpose({ load })

const at = (id: string) => `/api/sites/${encodeURIComponent(id)}`
async function bringBack(id: string) {
  const edits = [{ document: 'site', path: '/deleted', old: true, new: false }]
  try {
    await ask(`${at(id)}/changes`, { method: 'POST', body: { edits, gesture: crypto.randomUUID() } })
    emit('back')
  }
  catch (error) { notices.fail(error) }
  await load()
}
async function forGood() {
  const site = going.value!
  going.value = null
  try {
    await ask(at(site.id), { method: 'DELETE' })
    notices.say('info', `“${site.name}” is gone, with its takes and its history.`)
  }
  catch (error) { notices.fail(error) }
  await load()
}
</script>

<template>
  <FoldSection
    v-if="sites.length"
    id="deleted-sites"
    :title="`Deleted sites (${sites.length})`"
  >
    <ul>
      <li
        v-for="s in sites"
        :key="s.id"
        class="row apart"
        :data-deleted="s.id"
      >
        <span>
          <b>{{ s.name }}</b>
          <span class="soft small">last work {{ new Date(s.touchedAt).toLocaleString() }}</span>
        </span>
        <span class="row">
          <ActionButton
            size="small"
            text
            label="Bring back"
            :aria-label="`Bring back ${s.name}`"
            @click="bringBack(s.id)"
          />
          <ActionButton
            size="small"
            text
            severity="danger"
            label="Delete for good …"
            :aria-label="`Delete ${s.name} for good …`"
            @click="going = s"
          />
        </span>
      </li>
    </ul>
    <AskDialog
      :open="going !== null"
      title="Delete for good?"
      yes="Delete for good"
      @yes="forGood"
      @close="going = null"
    >
      <p>
        “{{ going?.name }}” goes with its plan, its takes and its whole history, and cannot be brought back. Backups
        that were made before still hold it.
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
b {
  margin-right: 0.75rem;
}
p {
  margin: 0;
}
</style>
