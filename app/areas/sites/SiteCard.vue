<script setup lang="ts">
import { message } from '~~/core/words'
import type { LedgerAnswer } from '~~/core/contract'
import type { SiteInfo } from '~~/core/documents'
import type { SiteRow } from './siteRow'
import { useNotices } from '~/parts/notices'
import SitePicture from './SitePicture.vue'

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
  if (!l) return 'reading the ledger …'
  if (l.cells === 0) return 'no cells yet'
  const states = `${l.fresh} fresh, ${l.stale} stale, ${l.cells - l.fresh - l.stale} to do`
  const takes = `${l.takes} ${l.takes === 1 ? 'take' : 'takes'}`
  return `${Math.round((100 * l.fresh) / l.cells)} % of the ledger is fresh: ${states}; ${takes}`
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
        label="New name of the site"
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
        {{ site.sources.length }} {{ site.sources.length === 1 ? 'source' : 'sources' }} × {{ site.positions.length }}
        {{ site.positions.length === 1 ? 'position' : 'positions' }}</span>
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
      >Open: {{ ledger!.open.join(', ') }}</span>
      <span class="soft small">last work {{ new Date(site.touchedAt).toLocaleString()
      }}{{ site.archived ? ', archived' : '' }}</span>
    </div>
    <div class="acts">
      <ActionButton
        size="small"
        text
        label="Duplicate"
        @click="emit('duplicate')"
      />
      <ActionButton
        size="small"
        text
        label="Rename"
        @click="renaming = true"
      />
      <ActionButton
        as="a"
        size="small"
        text
        label="Export"
        :href="`/api/sites/${site.id}/file`"
        title="One file for another Kovrin: plan, rig and takes, no history"
        download
      />
      <ActionButton
        as="a"
        size="small"
        text
        label="Back up"
        :href="`/api/backup?site=${site.id}`"
        title="All of this site: also its history, its log and what was deleted"
        download
      />
      <ActionButton
        size="small"
        text
        :label="site.archived ? 'Unarchive' : 'Archive'"
        @click="emit('change', { archived: !site.archived })"
      />
      <ActionButton
        size="small"
        text
        severity="danger"
        label="Delete"
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
