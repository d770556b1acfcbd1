<script setup lang="ts">
import { message } from '~~/core/words'
import type { ListedSite } from '~~/core/contract'
import { contentOf } from '~~/core/documents'
import type { DeletedItem } from '~/parts/DeletedList.vue'
import { ask } from '~/document/api'
import { useNotices } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

/** Sites that were deleted: each can be brought back, or goes for good. */
const emit = defineEmits<{ back: [id: string], gone: [id: string] }>()
const notices = useNotices()
const sites = ref<DeletedItem[]>([])

async function load() {
  try {
    const listed = await ask<ListedSite[]>('/api/sites?deleted=true')
    sites.value = listed.map(({ id, touchedAt, documents }) => ({
      id,
      name: contentOf(documents, 'site')!.name,
      about: phrase('sites.lastWork', { at: new Date(touchedAt).toLocaleString() }),
    }))
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
    emit('back', id)
  }
  catch (error) { notices.fail(error) }
  await load()
}
async function forGood(id: string) {
  const { name } = sites.value.find(s => s.id === id)!
  try {
    await ask(at(id), { method: 'DELETE' })
    emit('gone', id)
    notices.say('info', message('site.gone', { name }))
  }
  catch (error) { notices.fail(error) }
  await load()
}
</script>

<template>
  <DeletedList
    id="deleted-sites"
    :title="phrase('sites.deletedSites')"
    :items="sites"
    @back="bringBack"
    @gone="forGood"
  >
    <template #default="{ name }">
      {{ phrase('sites.goesWithItsPlan', { name }) }}
    </template>
  </DeletedList>
</template>
