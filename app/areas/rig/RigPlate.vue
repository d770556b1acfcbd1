<script setup lang="ts">
import { parameterName, showParameter } from '~~/core/rig'
import { useDrafts } from '~/document/drafts'
import { useSite } from '~/document/site'

const site = useSite()
const drafts = useDrafts()
const words = {
  searching: 'connecting',
  reading: 'reading its settings',
  live: 'in sync',
  lost: 'offline',
  elsewhere: 'controlled by another site',
  unconfirmed: 'not confirmed',
}
const rows = computed(() =>
  site.devices.map(d => ({ d, link: site.linkOf(d.id), unsent: site.unsent[d.id] ?? [] })),
)
const columns = [
  { id: 'device', name: 'Device' },
  { id: 'link', name: 'Connection' },
  { id: 'what', name: 'What it is' },
  { id: 'unsent', name: 'Unsent edits' },
]
</script>

<template>
  <section
    class="plate sheet"
    tabindex="0"
    aria-label="Plate"
  >
    <h2>Devices</h2>
    <FigureTable
      label="Devices"
      :rows="rows"
      :columns="columns"
      :row-key="r => r.d.id"
      :row-attributes="r => ({ 'data-device': r.d.id, 'data-link': r.link.state })"
    >
      <template #device="{ row: r }">
        <b>{{ r.d.name }}</b><br><span class="soft small">{{ r.d.capability.model }}</span>
      </template>
      <template #link="{ row: r }">
        <div :class="r.link.state">
          <i
            class="pi"
            :class="r.link.state === 'live' ? 'pi-check-circle' : 'pi-exclamation-triangle'"
          />
          {{ words[r.link.state] }}<br><span class="soft small">{{
            r.link.why ?? `since ${new Date(r.link.since).toLocaleTimeString()}`
          }}</span>
          <ActionButton
            v-if="r.link.state === 'elsewhere'"
            size="small"
            severity="secondary"
            label="Take control"
            @click="site.takeOver(r.d.id)"
          />
          <ActionButton
            v-if="r.link.state === 'unconfirmed' && r.d.address.includes(':')"
            size="small"
            severity="secondary"
            :label="`Connect to ${r.d.address}`"
            @click="site.confirmAddress(r.d.id)"
          />
          <p
            v-for="m in r.link.misfits"
            :key="m"
            class="sentence warn"
          >
            {{ m }}
          </p>
        </div>
      </template>
      <template #what="{ row: r }">
        {{ r.d.capability.inputs.length }} in, {{ r.d.capability.outputs.length }} out,
        {{ r.d.capability.sampleRate / 1000 }} kHz<br>
        <span class="soft small">{{ (r.d.capability.latency * 1000).toFixed(1) }} ms through it</span>
      </template>
      <template #unsent="{ row: r }">
        <span
          v-if="!r.unsent.length"
          class="soft"
        >none</span>
        <div
          v-for="u in r.unsent"
          :key="u.path"
          class="small"
        >
          {{ parameterName(r.d.capability, u.path) }}:
          <s class="soft">{{ showParameter(r.d.capability, u.path, u.from) }}</s> →
          <b>{{ showParameter(r.d.capability, u.path, u.to) }}</b><span
            v-if="drafts.byOf(r.d.id, u.path)"
            class="soft"
          > by {{ drafts.byOf(r.d.id, u.path) }}</span>
        </div>
      </template>
    </FigureTable>
    <div
      v-if="site.unsentCount"
      class="row"
    >
      <ActionButton
        label="Send all"
        @click="drafts.sendAll()"
      /><ActionButton
        label="Discard all drafts"
        severity="secondary"
        @click="drafts.dropAll()"
      />
    </div>
  </section>
</template>

<style scoped>
.live {
  color: var(--good);
}
.lost,
.elsewhere,
.unconfirmed,
.searching {
  color: var(--warn);
}
</style>
