<script setup lang="ts">
import type { HistoryAnswer } from '~~/core/contract'
import type { Change } from '~~/core/documents'
import { parameterName, showParameter } from '~~/core/rig'
import { ask } from '~/utils/api'

const site = useSite()
const notices = useNotices()
const entries = ref<HistoryAnswer['changes']>([])
const log = ref<HistoryAnswer['log']>([])
const kinds: Record<Change['origin'], string> = {
  edit: 'edited',
  undo: 'taken back',
  redo: 'made again',
  sent: 'confirmed by the device',
  device: 'changed at the device',
  lease: 'for a while',
  link: '',
}
const deviceOf = (c: Change) => c.document.slice(c.document.indexOf('/') + 1)
const capabilityOf = (c: Change) => site.deviceOf(deviceOf(c))?.capability
const load = async () => {
  try {
    const told = await ask<HistoryAnswer>(site.path('/history?limit=200'))
    entries.value = told.changes
    log.value = told.log
  }
  catch (error) {
    notices.fail(error)
  }
}
onMounted(load)
const stop = site.onChanges(useDebounceFn(load, 400))
onBeforeUnmount(stop)
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
          :key="e.number"
        >
          <td class="num">
            {{ new Date(e.at).toLocaleTimeString() }}
          </td>
          <td>{{ e.who }}</td>
          <td>{{ site.deviceName(deviceOf(e)) }}</td>
          <td>{{ parameterName(capabilityOf(e), e.path) }}</td>
          <td>
            <s class="soft">{{ showParameter(capabilityOf(e), e.path, e.old) }}</s> →
            <b>{{ showParameter(capabilityOf(e), e.path, e.new) }}</b>
          </td>
          <td class="soft">
            {{ kinds[e.origin] }}
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
