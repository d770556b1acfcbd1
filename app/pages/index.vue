<script setup lang="ts">
import { message } from '~~/core/words'
import type { LedgerAnswer, ListedSite } from '~~/core/contract'
import type { SiteInfo } from '~~/core/documents'
import { rowOf, type SiteRow } from '~/areas/sites/siteRow'
import { ask, usePatience } from '~/document/api'
import { useView } from '~/document/view'
import { choicesOfNames } from '~/parts/choices'
import { useNotices } from '~/parts/notices'
import BackupPanel from '~/areas/sites/BackupPanel.vue'
import DeletedSites from '~/areas/sites/DeletedSites.vue'
import SiteCard from '~/areas/sites/SiteCard.vue'
import { phrase } from '~/parts/phrase'

const ledgers = ref<Record<string, LedgerAnswer>>({})
const templates = ref<{ id: string, name: string, about: string }[]>([])
const choosing = ref(false)
const rig = ref<'none' | 'simulated'>('none')
const rigs = choicesOfNames({ none: phrase('common.noDevices'), simulated: phrase('frame.simulatedRackNoGear') })
const notices = useNotices()
const showArchived = ref(false)
const deleted = ref<SiteRow | null>(null)
const shown = computed(() => (sites.value ?? []).filter(s => showArchived.value || !s.archived))
const view = useView()
const bin = useTemplateRef('bin')
const sites = ref<SiteRow[] | null>(null)
const trouble = ref<string | null>(null)
const patiently = usePatience()
/** The list is asked for until it comes, as long as it is looked at. */
async function load() {
  try {
    const wanted = () => Promise.all([ask<ListedSite[]>('/api/sites'), ask<typeof templates.value>('/api/templates')])
    const found = await patiently(wanted, (who) => {
      trouble.value = phrase('frame.itIsAskedAgain', { who })
    })
    if (!found) return
    sites.value = found[0].map(rowOf)
    templates.value = found[1]
    trouble.value = null
  }
  catch (error) {
    trouble.value = (error as Error).message
  }
  for (const s of sites.value ?? []) {
    await ask<LedgerAnswer>(`/api/sites/${encodeURIComponent(s.id)}/ledger`)
      .then((l) => {
        ledgers.value = { ...ledgers.value, [s.id]: l }
      })
      .catch(notices.fail)
  }
}
onMounted(load)

async function make(wish: { from: string, [more: string]: unknown } | Blob, refused = '') {
  const init = wish instanceof Blob ? { bytes: wish, type: 'application/json' } : { body: wish }
  try {
    const { id } = await ask<{ id: string }>('/api/sites', { method: 'POST', ...init })
    if (!(wish instanceof Blob) && wish.from === 'template') view.area = 'site' // what is new is drawn first
    await navigateTo(`/sites/${id}`)
  }
  catch (error) {
    if (refused) notices.say('error', message('words.because', { what: refused, why: (error as Error).message }))
    else notices.fail(error)
  }
}
async function change({ id, ...now }: SiteRow, next: Partial<SiteInfo>) {
  const edits = Object.entries(next).map(([field, value]) =>
    ({ document: 'site', path: `/${field}`, old: now[field as keyof SiteInfo], new: value }))
  const body = { edits, gesture: crypto.randomUUID() }
  try {
    await ask(`/api/sites/${encodeURIComponent(id)}/changes`, { method: 'POST', body })
  }
  catch (error) { notices.fail(error) }
  await load()
  await bin.value?.load()
}
async function remove(s: SiteRow) {
  await change(s, { deleted: true })
  deleted.value = s
}
/** What was just deleted is back, or gone for good: nothing is left to be offered. */
function settled(id: string) {
  if (deleted.value?.id === id) deleted.value = null
}
async function bringBack() {
  await change({ ...deleted.value!, deleted: true }, { deleted: false })
  deleted.value = null
}
/** The file goes to the server as it is: a large one is not read here first. */
const fromFile = (file: File) =>
  make(new Blob(['{"from":"file","file":', file, '}']), phrase('frame.wasNotOpened', { name: file.name }))
useHead({ title: phrase('frame.sitesKovrin') })
</script>

<template>
  <main class="page">
    <header class="row apart">
      <h1>{{ phrase('common.kovrin') }}</h1>
      <button
        class="plain"
        :title="view.theme === 'day' ? phrase('common.nightTheme') : phrase('common.dayTheme')"
        :aria-label="phrase('common.changeTheme')"
        @click="view.turnTheme()"
      >
        <i
          class="pi"
          :class="view.theme === 'day' ? 'pi-moon' : 'pi-sun'"
        />
      </button>
    </header>
    <p class="soft">
      {{ phrase('frame.measureLoudspeakersAndRooms') }}
    </p>
    <h2>{{ phrase('frame.sites') }}</h2>
    <p
      v-if="trouble"
      class="sentence error"
    >
      {{ trouble }}
      <button
        class="plain"
        @click="load"
      >
        <u>{{ phrase('common.retry') }}</u>
      </button>
    </p>
    <p
      v-else-if="!sites"
      class="soft"
    >
      {{ phrase('frame.loadingYourSites') }}
    </p>
    <template v-else>
      <div class="row">
        <ActionButton
          :label="phrase('frame.newSite')"
          @click="choosing = true"
        />
        <FileField
          :label="phrase('frame.openASiteFile')"
          accept="application/json,.json"
          @pick="fromFile($event[0]!)"
        />
        <CheckField
          v-if="sites.some(s => s.archived)"
          v-model:value="showArchived"
          :label="phrase('frame.showArchived')"
        />
      </div>
      <p
        v-if="deleted"
        class="sentence warn"
      >
        {{ phrase('frame.wasDeleted', { name: deleted.name }) }}
        <button
          class="plain"
          @click="bringBack"
        >
          <u>{{ phrase('common.restore') }}</u>
        </button>
      </p>
      <p
        v-if="!shown.length"
        class="soft"
      >
        {{ phrase('frame.noSiteYetMake') }}
      </p>
      <ul>
        <SiteCard
          v-for="s in shown"
          :key="s.id"
          :site="s"
          :ledger="ledgers[s.id]"
          @duplicate="make({ from: 'site', site: s.id, name: phrase('frame.copy', { name: s.name }) })"
          @change="change(s, $event)"
          @remove="remove(s)"
        />
      </ul>
    </template>
    <DeletedSites
      v-if="sites"
      ref="bin"
      @back="settled($event), load()"
      @gone="settled"
    />
    <BackupPanel @back="load" />
    <ModalDialog
      :open="choosing"
      :title="phrase('frame.beginTheNewSite')"
      width="34rem"
      @close="choosing = false"
    >
      <ChoiceField
        v-model:value="rig"
        :label="phrase('common.devices')"
        layout="beside"
        :options="rigs"
      />
      <ul class="templates">
        <li
          v-for="t in templates"
          :key="t.id"
        >
          <button
            class="plain"
            @click="make({ from: 'template',
template: t.id,
rig,
name: t.id === 'nothing'
              ? phrase('frame.newSite2')
              : t.name })"
          >
            <b>{{ t.name }}</b><span class="soft">{{ t.about }}</span>
          </button>
        </li>
      </ul>
      <p class="soft small">
        {{ phrase('frame.everythingCanBeChanged') }}
      </p>
    </ModalDialog>
    <TextField
      v-model:value="view.who"
      class="who"
      :label="phrase('frame.yourNameInThe')"
      :maxlength="60"
    />
  </main>
</template>

<style scoped>
.page {
  max-width: 880px;
  margin: 0 auto;
  padding: 3rem 1.5rem;
  display: grid;
  gap: 1rem;
}
h1 {
  font-size: 2rem;
}
.plain {
  min-width: 44px;
  min-height: 44px;
  text-align: center;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 0.75rem;
}
.templates {
  gap: 0.3rem;
}
.templates button {
  display: grid;
  width: 100%;
  padding: 0.6rem 0.8rem;
  border: 1px solid var(--rule-strong);
  text-align: left;
}
.templates button:hover {
  background: var(--well);
}
.who {
  max-width: 20rem;
}
</style>
