<script setup lang="ts">
import { parameterName, showParameter, type ParameterValue } from '~~/core/rig'
import { ask } from '~/utils/api'

interface Entry {
  id: number
  deviceId: string
  path: string
  old: ParameterValue
  new: ParameterValue
  kind: 'edit' | 'sent' | 'device'
  who: string
  at: string
}
const site = useSite()
const notices = useNotices()
const entries = ref<Entry[]>([])
const log = ref<{ id: number, who: string, what: string, at: string }[]>([])
const kinds = { edit: 'edited', sent: 'confirmed by the device', device: 'changed at the device' }
const load = async () => {
  try {
    const told = await ask<{ changes: Entry[], log: typeof log.value }>(site.path('/history?limit=200'))
    entries.value = told.changes
    log.value = told.log
  }
  catch (error) {
    notices.fail(error)
  }
}
onMounted(load)
watch(() => [site.revisions, site.drafts, site.site?.links, site.site?.takes], useDebounceFn(load, 400))
</script>

<template>
  <section
    class="plate sheet"
    aria-label="Plate"
  >
    <h2>What was changed, newest first</h2>
    <p
      v-if="!entries.length"
      class="soft"
    >
      Nothing has been changed yet. Every edit will stand here with who made it, when, and what it was before.
    </p>
    <table
      v-else
      class="plain"
    >
      <thead>
        <tr>
          <th>When</th>
          <th>Who</th>
          <th>Device</th>
          <th>Setting</th>
          <th>Old → new</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="e in entries"
          :key="e.id"
        >
          <td class="num">
            {{ new Date(e.at).toLocaleTimeString() }}
          </td>
          <td>{{ e.who }}</td>
          <td>{{ site.deviceOf(e.deviceId)?.name }}</td>
          <td>{{ parameterName(e.path) }}</td>
          <td>
            <s class="soft">{{ showParameter(e.path, e.old) }}</s> → <b>{{ showParameter(e.path, e.new) }}</b>
          </td>
          <td class="soft">
            {{ kinds[e.kind] }}
          </td>
        </tr>
      </tbody>
    </table>
    <h2>Log</h2>
    <table class="plain">
      <thead>
        <tr>
          <th>When</th>
          <th>Who</th>
          <th>What</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="l in log"
          :key="l.id"
        >
          <td class="num">
            {{ new Date(l.at).toLocaleTimeString() }}
          </td>
          <td>{{ l.who }}</td>
          <td>{{ l.what }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
td.num {
  text-align: left !important;
}
</style>
