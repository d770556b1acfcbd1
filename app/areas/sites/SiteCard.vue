<script setup lang="ts">
import { message, wordsOf, type Message } from '~~/core/words'
import type { LedgerAnswer } from '~~/core/contract'
import type { SiteInfo } from '~~/core/documents'
import type { SiteRow } from './siteRow'
import { useNotices } from '~/parts/notices'
import SitePicture from './SitePicture.vue'
import { phrase } from '~/parts/phrase'

/** One site of the list: its plan, how far its ledger is, and what can be done with it. */
const props = defineProps<{ site: SiteRow, ledger?: LedgerAnswer | undefined }>()
const emit = defineEmits<{ duplicate: [], change: [next: Partial<SiteInfo>], remove: [] }>()
const notices = useNotices()
const size = computed(() => {
  const { x, y, z } = props.site.plan.room.size
  return [x, y, z].map(v => Number(v.toFixed(2))).join(' × ')
})
const words = computed(() => {
  const l = props.ledger
  if (!l) return phrase('sites.readingTheLedger')
  if (l.cells === 0) return phrase('sites.noCellsYet')
  const states = phrase('sites.freshStaleToDo', {
    fresh: l.fresh,
    stale: l.stale,
    cells: l.cells - l.fresh - l.stale,
  })
  const percent = Math.round((100 * l.fresh) / l.cells)
  return phrase('sites.ofTheLedgerIs', { percent, states, takes: l.takes })
})
const renaming = ref(false)
function rename(text: string) {
  const name = text.trim()
  renaming.value = false
  if (name) emit('change', { name })
  else notices.say('warn', message('site.needsName'))
}
</script>

<template>
  <li
    class="panel site"
    :data-site="site.id"
  >
    <SitePicture
      :name="site.name"
      :plan="site.plan"
      :areas="site.areas"
      :sources="site.sources"
      :positions="site.positions"
    />
    <div class="facts">
      <TextField
        v-if="renaming"
        :value="site.name"
        :label="phrase('sites.newNameOfThe')"
        layout="bare"
        :maxlength="120"
        autofocus
        @change="rename($event)"
        @leave="renaming = false"
      />
      <NuxtLink
        v-else
        :to="`/sites/${site.id}`"
      ><b>{{ site.name }}</b></NuxtLink>
      <span class="soft">{{ size }} m,
        {{ site.sources.length }} {{ site.sources.length === 1
          ? phrase('sites.source')
          : phrase('sites.sources') }} × {{ site.positions.length }}
        {{ site.positions.length === 1 ? phrase('sites.position') : phrase('sites.positions') }}</span>
      <span data-testid="freshness">{{ words }}</span>
      <span
        v-if="ledger?.cells"
        class="bar"
        aria-hidden="true"
      ><i
        class="fresh"
        :style="{ flexGrow: ledger!.fresh }"
      /><i
        class="stale"
        :style="{ flexGrow: ledger!.stale }"
      /><i
        :style="{ flexGrow: ledger!.cells - ledger!.fresh - ledger!.stale }"
      /></span>
      <span
        v-if="ledger?.open.length"
        class="open small"
      >{{ phrase('sites.open', { open: ledger!.open.map(o => wordsOf(o as Message)).join(', ') }) }}</span>
      <span class="soft small">{{
        phrase('sites.lastWork2', {
          at: new Date(site.touchedAt).toLocaleString(),
          archived: site.archived ? phrase('sites.archived') : '',
        })
      }}</span>
    </div>
    <div class="acts">
      <ActionButton
        size="small"
        text
        :label="phrase('common.duplicate')"
        @click="emit('duplicate')"
      />
      <ActionButton
        size="small"
        text
        :label="phrase('sites.rename')"
        @click="renaming = true"
      />
      <ActionButton
        as="a"
        size="small"
        text
        :label="phrase('common.export')"
        :href="`/api/sites/${site.id}/file`"
        :title="phrase('sites.oneFileForAnother')"
        download
      />
      <ActionButton
        as="a"
        size="small"
        text
        :label="phrase('sites.backUp')"
        :href="`/api/backup?site=${site.id}`"
        :title="phrase('sites.allOfThisSite')"
        download
      />
      <ActionButton
        size="small"
        text
        :label="site.archived ? phrase('sites.unarchive') : phrase('sites.archive')"
        @click="emit('change', { archived: !site.archived })"
      />
      <ActionButton
        size="small"
        text
        severity="danger"
        :label="phrase('common.delete')"
        @click="emit('remove')"
      />
    </div>
  </li>
</template>

<style scoped>
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
</style>
