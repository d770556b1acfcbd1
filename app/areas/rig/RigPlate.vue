<script setup lang="ts">
import { parameterName, showParameter } from '~~/core/rig'
import { useDrafts } from '~/document/drafts'
import { useSite } from '~/document/site'
import { phrase } from '~/parts/phrase'

const site = useSite()
const drafts = useDrafts()
const words = {
  searching: phrase('rig.connecting'),
  reading: phrase('rig.readingItsSettings'),
  live: phrase('rig.inSync'),
  lost: phrase('rig.offline'),
  elsewhere: phrase('rig.controlledByAnotherSite'),
  unconfirmed: phrase('rig.notConfirmed'),
}
const rows = computed(() =>
  site.devices.map(d => ({ d, link: site.linkOf(d.id), unsent: site.unsent[d.id] ?? [] })),
)
const columns = [
  { id: 'device', name: phrase('common.device') },
  { id: 'link', name: phrase('rig.connection') },
  { id: 'what', name: phrase('rig.whatItIs') },
  { id: 'unsent', name: phrase('rig.unsentEdits') },
]
</script>

<template>
  <section
    class="plate sheet"
    tabindex="0"
    :aria-label="phrase('common.plate')"
  >
    <h2>{{ phrase('common.devices') }}</h2>
    <FigureTable
      :label="phrase('common.devices')"
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
            r.link.why ?? phrase('rig.since', { time: new Date(r.link.since).toLocaleTimeString() })
          }}</span>
          <ActionButton
            v-if="r.link.state === 'elsewhere'"
            size="small"
            severity="secondary"
            :label="phrase('rig.takeControl')"
            @click="site.takeOver(r.d.id)"
          />
          <ActionButton
            v-if="r.link.state === 'unconfirmed' && r.d.address.includes(':')"
            size="small"
            severity="secondary"
            :label="phrase('rig.connectTo', { address: r.d.address })"
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
        {{
          phrase('rig.inOutKhz', {
            inputs: r.d.capability.inputs.length,
            outputs: r.d.capability.outputs.length,
            sampleRate: r.d.capability.sampleRate / 1000,
          })
        }}<br>
        <span class="soft small">{{
          phrase('rig.msThroughIt', {
            latency: (r.d.capability.latency * 1000).toFixed(1),
          })
        }}</span>
      </template>
      <template #unsent="{ row: r }">
        <span
          v-if="!r.unsent.length"
          class="soft"
        >{{ phrase('common.none') }}</span>
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
          > {{ phrase('rig.by', { who: drafts.byOf(r.d.id, u.path) ?? '' }) }}</span>
        </div>
      </template>
    </FigureTable>
    <div
      v-if="site.unsentCount"
      class="row"
    >
      <ActionButton
        :label="phrase('common.sendAll')"
        @click="drafts.sendAll()"
      /><ActionButton
        :label="phrase('rig.discardAllDrafts')"
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
