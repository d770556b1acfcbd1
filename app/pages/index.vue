<script setup lang="ts">
import type { LedgerAnswer, ListedSite } from '~~/core/contract'
import { allOf, contentOf, type SiteInfo } from '~~/core/documents'
import { ask } from '~/utils/api'

/** One site of the list, as it is shown. */
function rowOf({ id, touchedAt, documents }: ListedSite) {
  const info = contentOf(documents, 'site')!
  return {
    id,
    touchedAt,
    ...info,
    plan: contentOf(documents, 'plan')!,
    areas: allOf(documents, 'area'),
    sources: allOf(documents, 'source'),
    positions: allOf(documents, 'position'),
  }
}
type Row = ReturnType<typeof rowOf>
const sizeOf = ({ plan: { room: { size } } }: Row) =>
  [size.x, size.y, size.z].map(v => Number(v.toFixed(2))).join(' × ')
const ledgers = ref<Record<string, LedgerAnswer>>({})
const templates = ref<{ id: string, name: string, about: string }[]>([])
const choosing = ref(false)
const notices = useNotices()
const showArchived = ref(false)
const deleted = ref<Row | null>(null)
const shown = computed(() => (sites.value ?? []).filter(s => showArchived.value || !s.archived))
const view = useView()
const bin = useTemplateRef('bin')
const sites = ref<Row[] | null>(null)
const trouble = ref<string | null>(null)
async function load() {
  trouble.value = null
  try {
    sites.value = (await ask<ListedSite[]>('/api/sites')).map(rowOf)
    templates.value = await ask('/api/templates')
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
function ledgerWords(id: string) {
  const l = ledgers.value[id]
  if (!l) return 'reading the ledger …'
  if (l.cells === 0) return 'no cells yet'
  const states = `${l.fresh} fresh, ${l.stale} stale, ${l.cells - l.fresh - l.stale} to do`
  const takes = `${l.takes} ${l.takes === 1 ? 'take' : 'takes'}`
  return `${Math.round((100 * l.fresh) / l.cells)} % of the ledger is fresh: ${states}; ${takes}`
}
onMounted(load)

async function make(body: { from: string, [more: string]: unknown }) {
  if (body.from === 'template') view.area = 'site' // what is new is drawn first
  try {
    await navigateTo(`/sites/${(await ask<{ id: string }>('/api/sites', { method: 'POST', body })).id}`)
  }
  catch (error) {
    notices.fail(error)
  }
}
async function change({ id, ...now }: Row, next: Partial<SiteInfo>) {
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
async function remove(s: Row) {
  await change(s, { deleted: true })
  deleted.value = s
}
async function bringBack() {
  await change({ ...deleted.value!, deleted: true }, { deleted: false })
  deleted.value = null
}
/** The site whose name is being typed. */
const renaming = ref<string | null>(null)
async function rename(s: Row, text: string) {
  const name = text.trim()
  renaming.value = null
  if (name) await change(s, { name })
  else notices.say('warn', 'A site needs a name: it keeps the one it had.')
}
async function fromFile(file: File) {
  let document: unknown
  try {
    document = JSON.parse(await file.text())
  }
  catch {
    notices.say('error', `“${file.name}” is not a site file: it is not JSON. Nothing was changed.`)
  }
  if (document) await make({ from: 'file', file: document })
}
useHead({ title: 'Sites · Kovrin' })
</script>

<template>
  <main class="page">
    <header class="row apart">
      <h1>Kovrin</h1>
      <button
        class="plain"
        :title="view.theme === 'day' ? 'Night theme' : 'Day theme'"
        aria-label="Change theme"
        @click="view.turnTheme()"
      >
        <i
          class="pi"
          :class="view.theme === 'day' ? 'pi-moon' : 'pi-sun'"
        />
      </button>
    </header>
    <p class="soft">
      Hear what each loudspeaker and the room really do, set the processors, and see the measurement answer.
    </p>
    <h2>Sites</h2>
    <p
      v-if="trouble"
      class="sentence error"
    >
      {{ trouble }}
      <button
        class="plain"
        @click="load"
      >
        <u>Try again</u>
      </button>
    </p>
    <p
      v-else-if="!sites"
      class="soft"
    >
      Looking for your sites …
    </p>
    <template v-else>
      <div class="row">
        <ActionButton
          label="New site …"
          @click="choosing = true"
        />
        <FileField
          label="Open a site file …"
          accept="application/json,.json"
          @pick="fromFile($event[0]!)"
        />
        <CheckField
          v-if="sites.some(s => s.archived)"
          v-model:value="showArchived"
          label="show archived"
        />
      </div>
      <p
        v-if="deleted"
        class="sentence warn"
      >
        “{{ deleted.name }}” was deleted.
        <button
          class="plain"
          @click="bringBack"
        >
          <u>Bring it back</u>
        </button>
      </p>
      <p
        v-if="!shown.length"
        class="soft"
      >
        No site yet. Make a new one, or open a site file.
      </p>
      <ul>
        <li
          v-for="s in shown"
          :key="s.id"
          class="panel site"
          :data-site="s.id"
        >
          <SitePicture
            :name="s.name"
            :plan="s.plan"
            :areas="s.areas"
            :sources="s.sources"
            :positions="s.positions"
          />
          <div class="facts">
            <TextField
              v-if="renaming === s.id"
              :value="s.name"
              label="New name of the site"
              layout="bare"
              :maxlength="120"
              autofocus
              @change="rename(s, $event)"
              @leave="renaming = null"
            />
            <NuxtLink
              v-else
              :to="`/sites/${s.id}`"
            ><b>{{ s.name }}</b></NuxtLink>
            <span class="soft">{{ sizeOf(s) }} m,
              {{ s.sources.length }} {{ s.sources.length === 1 ? 'source' : 'sources' }} × {{ s.positions.length }}
              {{ s.positions.length === 1 ? 'position' : 'positions' }}</span>
            <span data-testid="freshness">{{ ledgerWords(s.id) }}</span>
            <span
              v-if="ledgers[s.id]?.cells"
              class="bar"
              aria-hidden="true"
            ><i
              class="fresh"
              :style="{ flexGrow: ledgers[s.id]!.fresh }"
            /><i
              class="stale"
              :style="{ flexGrow: ledgers[s.id]!.stale }"
            /><i
              :style="{ flexGrow: ledgers[s.id]!.cells - ledgers[s.id]!.fresh - ledgers[s.id]!.stale }"
            /></span>
            <span
              v-if="ledgers[s.id]?.open.length"
              class="open small"
            >Open: {{ ledgers[s.id]!.open.join(', ') }}</span>
            <span class="soft small">last work {{ new Date(s.touchedAt).toLocaleString()
            }}{{ s.archived ? ', archived' : '' }}</span>
          </div>
          <div class="acts">
            <ActionButton
              size="small"
              text
              label="Duplicate"
              @click="make({ from: 'site', site: s.id, name: `${s.name} copy` })"
            />
            <ActionButton
              size="small"
              text
              label="Rename"
              @click="renaming = s.id"
            />
            <ActionButton
              as="a"
              size="small"
              text
              label="Export"
              :href="`/api/sites/${s.id}/file`"
              title="One file to carry to another Kovrin: plan, rig and takes, without history and log"
              download
            />
            <ActionButton
              as="a"
              size="small"
              text
              label="Back up"
              :href="`/api/backup?site=${s.id}`"
              title="All of this site: also its history, its log and what was deleted"
              download
            />
            <ActionButton
              size="small"
              text
              :label="s.archived ? 'Unarchive' : 'Archive'"
              @click="change(s, { archived: !s.archived })"
            />
            <ActionButton
              size="small"
              text
              severity="danger"
              label="Delete"
              @click="remove(s)"
            />
          </div>
        </li>
      </ul>
    </template>
    <DeletedSites
      v-if="sites"
      ref="bin"
      @back="load"
    />
    <BackupPanel @back="load" />
    <ModalDialog
      :open="choosing"
      title="Begin the new site with"
      width="34rem"
      @close="choosing = false"
    >
      <ul class="templates">
        <li
          v-for="t in templates"
          :key="t.id"
        >
          <button
            class="plain"
            @click="make({ from: 'template', template: t.id, name: t.id === 'nothing' ? 'New site' : t.name })"
          >
            <b>{{ t.name }}</b><span class="soft">{{ t.about }}</span>
          </button>
        </li>
      </ul>
      <p class="soft small">
        Everything can be changed afterwards. A copy of a site of yours, or a site file, is made from the list.
      </p>
    </ModalDialog>
    <TextField
      v-model:value="view.who"
      class="who"
      label="Your name in the history"
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
.site {
  display: grid;
  grid-template-columns: 170px 1fr auto;
  gap: 1rem;
  padding: 0.9rem 1.1rem;
  align-items: center;
}
.site b {
  font-size: 1.3rem;
}
.bar {
  display: flex;
  height: 5px;
  max-width: 320px;
  background: var(--well);
  border: 1px solid var(--rule);
}
.bar .fresh {
  background: var(--accent);
}
.bar .stale {
  background: var(--warn);
}
.open {
  color: var(--warn);
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
.facts {
  display: grid;
  gap: 0.15rem;
}
.acts {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
}
.acts a {
  text-decoration: none;
}
.who {
  max-width: 20rem;
}
</style>
