<script setup lang="ts">
import { say } from '~~/core/words/say'
import { useDebounceFn } from '@vueuse/core'
import type { HistoryAnswer } from '~~/core/contract'
import type { Change } from '~~/core/documents'
import { parameterName, showParameter } from '~~/core/rig'
import type { TableColumn } from '~/parts/columns'
import { ask, usePatience } from '~/document/api'
import { useSite } from '~/document/site'
import { useNotices } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

const site = useSite()
const notices = useNotices()
const patiently = usePatience()
const entries = ref<HistoryAnswer['changes']>([])
const log = ref<HistoryAnswer['log']>([])
const kinds: Record<Change['origin'], string> = {
  edit: 'edited',
  undo: 'undone',
  redo: 'redone',
  sent: phrase('watch.confirmedByTheDevice'),
  device: phrase('watch.changedAtTheDevice'),
  lease: 'temporary',
  link: '',
}
const deviceOf = (c: Change) => c.document.slice(c.document.indexOf('/') + 1)
const capabilityOf = (c: Change) => site.deviceOf(deviceOf(c))?.capability
const load = async () => {
  try {
    const told = await patiently(() => ask<HistoryAnswer>(site.path('/history?limit=200')))
    if (!told) return
    entries.value = told.changes
    log.value = told.log
  }
  catch (error) {
    notices.fail(error)
  }
}
type Logged = HistoryAnswer['log'][number]
/** The time, with the day instead of seconds where that is not today. */
function time(at: string): string {
  const date = new Date(at)
  if (date.toDateString() === new Date().toDateString()) return date.toLocaleTimeString([], { hour12: false })
  return date.toLocaleString([], { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit', hour12: false })
}
/** What is looked for in both lists, and whether what was only done for a while is shown. */
const wanted = ref('')
const passing = ref(false)
const says = (...words: string[]) => words.join(' ').toLowerCase().includes(wanted.value.trim().toLowerCase())
const wordsOf = (e: Change) => [
  time(e.at), e.who, site.deviceName(deviceOf(e)), parameterName(capabilityOf(e), e.path), kinds[e.origin],
  showParameter(capabilityOf(e), e.path, e.old), showParameter(capabilityOf(e), e.path, e.new),
]
const lasting = computed(() => entries.value.filter(e => passing.value || e.origin !== 'lease'))
const folded = computed(() => entries.value.length - entries.value.filter(e => e.origin !== 'lease').length)
const shownChanges = computed(() => (wanted.value ? lasting.value.filter(e => says(...wordsOf(e))) : lasting.value))
const shownLog = computed(() => log.value.filter(l => says(time(l.at), l.who, said(l))))
const changeColumns: TableColumn<Change>[] = [
  { id: 'at', name: phrase('watch.when'), numeric: true, text: e => time(e.at), sort: e => e.at, width: '7rem' },
  { id: 'who', name: phrase('watch.who'), text: e => e.who, sort: e => e.who },
  {
    id: 'device',
    name: phrase('common.device'),
    text: e => site.deviceName(deviceOf(e)),
    sort: e => site.deviceName(deviceOf(e)),
  },
  {
    id: 'setting',
    name: phrase('watch.setting'),
    text: e => parameterName(capabilityOf(e), e.path),
    sort: e => parameterName(capabilityOf(e), e.path),
  },
  { id: 'change', name: phrase('watch.oldNew'), width: '14rem' },
  {
    id: 'origin',
    name: phrase('watch.how'),
    text: e => kinds[e.origin],
    sort: e => kinds[e.origin],
    pale: () => true,
    width: '6.5rem',
  },
]
/** A line of the log by its code; one of before, or of a newer Kovrin, as it was stored. */
const said = ({ code, values, what }: Logged) => (code && values && say({ code, values })) || what
const logColumns: TableColumn<Logged>[] = [
  { id: 'at', name: phrase('watch.when'), numeric: true, text: l => time(l.at), sort: l => l.at, width: '8rem' },
  { id: 'who', name: phrase('watch.who'), text: l => l.who, sort: l => l.who, width: '10rem' },
  { id: 'what', name: phrase('watch.what'), text: said },
]
onMounted(load)
const stop = site.onChanges(useDebounceFn(load, 400))
onBeforeUnmount(stop)
</script>

<template>
  <section
    class="plate sheet"
    tabindex="0"
    :aria-label="phrase('common.plate')"
  >
    <div class="row apart">
      <h2>{{ phrase('watch.changeHistory') }}</h2>
      <CheckField
        v-if="folded"
        v-model:value="passing"
        :label="phrase('watch.changeTemporaryTooMutes', { folded })"
      />
      <FindField
        v-model:value="wanted"
        beside
        :label="phrase('watch.filterChangesAndLog')"
        :placeholder="phrase('watch.filter')"
      />
    </div>
    <p
      v-if="entries.length && !shownChanges.length"
      class="soft"
    >
      {{ wanted ? phrase('watch.noChangeSays', { wanted }) : phrase('watch.onlyTemporaryChangesAll') }}
    </p>
    <p
      v-else-if="!entries.length"
      class="soft"
    >
      {{ phrase('watch.nothingHasBeenChanged') }}
    </p>
    <ListTable
      v-else
      :label="phrase('watch.changes')"
      :rows="shownChanges"
      :columns="changeColumns"
      row-key="number"
      height="46vh"
      :lines="3"
    >
      <template #change="{ row: e }">
        <s class="soft">{{ showParameter(capabilityOf(e), e.path, e.old) }}</s> →
        <b>{{ showParameter(capabilityOf(e), e.path, e.new) }}</b>
      </template>
    </ListTable>
    <h2>{{ phrase('watch.log') }}</h2>
    <ListTable
      :label="phrase('watch.log')"
      :rows="shownLog"
      :columns="logColumns"
      row-key="id"
      height="26vh"
    />
  </section>
</template>
