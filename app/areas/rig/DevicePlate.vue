<script setup lang="ts">
import {
  channelsOf, endpointOf, is, parametersIn, showParameter, valueOf, writeKindFile, type BlockId, type Channel,
} from '~~/core/rig'
import { useRig } from '~/document/useRig'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { download } from '~/parts/download'
import { phrase } from '~/parts/phrase'
import { useEnds } from './ends'
import { linkWords } from '~/document/linkWords'
import ComparePanel from './ComparePanel.vue'
import FrontPanel from './FrontPanel.vue'
import PresetsPanel from './PresetsPanel.vue'

/** One device: what it says of itself, and its channels; the one that is picked is edited in the inspector. */
const site = useSite()
const view = useView()
const rig = useRig()
const { nameOf, nameOfDrive } = useEnds()
const device = computed(() => site.deviceOf(view.device) ?? null)
const link = computed(() => device.value && site.linkOf(device.value.id))
const state = computed(() => site.housekeepingOf(view.device ?? ''))
const channels = computed(() =>
  device.value && channelsOf(device.value.capability, device.value.id, site.wiring))

interface Fact { name: string, value: string, warn?: boolean }
const facts = computed((): Fact[] => {
  if (!device.value) return []
  const { model, firmware, sampleRate, latency, slots, assumed = [] } = device.value.capability
  const rate = String(sampleRate / 1000)
  const late = (latency * 1000).toFixed(1)
  const [noRate, noLatency] = [assumed.includes('sampleRate'), assumed.includes('latency')]
  return [
    { name: phrase('rig.model'), value: model },
    { name: phrase('rig.firmware'), value: firmware ?? phrase('rig.notTold') },
    {
      name: phrase('rig.sampleRate'), warn: noRate,
      value: phrase(noRate ? 'rig.khzAssumed' : 'rig.khz', { rate }),
    },
    {
      name: phrase('rig.latency'), warn: noLatency,
      value: phrase(noLatency ? 'rig.msAssumed' : 'rig.ms', { latency: late }),
    },
    { name: phrase('rig.presets'), value: phrase('rig.slots', { slots }) },
  ]
})

/** The first setting of a kind in a channel, in words. */
function shown({ strip }: Channel, kind: BlockId): string {
  const { capability, id } = device.value!
  const parameter = parametersIn(capability, strip.id).find(p => is(p, kind))
  return parameter ? showParameter(capability, parameter.path, valueOf(site.draft(id), parameter)) : ''
}
function comesFrom({ input, fed, strip: { from } }: Channel): string {
  if (fed) return nameOf(fed, 'outputs')
  if ('untold' in from) return phrase('rig.notTold')
  if (input !== null) return phrase('common.none')
  return phrase('rig.inside')
}
const leadsTo = ({ cables, drives }: Channel) =>
  [...drives.map(nameOfDrive), ...cables.map(key => nameOf(endpointOf(key), 'inputs'))].join('; ')
const columns = (names: 'inputs' | 'outputs') => [
  { id: 'channel', name: phrase('rig.channel') },
  { id: 'level', name: phrase('rig.level'), numeric: true, text: (c: Channel) => shown(c, 'gain') },
  { id: 'delay', name: phrase('rig.delayColumn'), numeric: true, text: (c: Channel) => shown(c, 'delay') },
  { id: 'mute', name: phrase('rig.muteColumn'), text: (c: Channel) => shown(c, 'mute') },
  names === 'inputs'
    ? { id: 'from', name: phrase('rig.comesFrom'), text: comesFrom }
    : { id: 'to', name: phrase('rig.leadsTo'), text: leadsTo },
]
const sides = computed(() => (['inputs', 'outputs'] as const)
  .map(side => ({
    side,
    title: phrase(side === 'inputs' ? 'rig.inputChannels' : 'rig.outputChannels'),
    rows: channels.value?.[side] ?? [],
    columns: columns(side),
  }))
  .filter(s => s.rows.length))
const isPicked = (c: Channel) => view.strip?.device === view.device && view.strip.strip === c.strip.id
const alone = [
  { id: 'at', name: phrase('rig.object'), text: (x: { at: string }) => x.at },
  { id: 'class', name: phrase('rig.class'), text: (x: { class: string }) => x.class },
]
</script>

<template>
  <section
    class="plate sheet"
    tabindex="0"
    :aria-label="phrase('common.plate')"
    data-testid="device-plate"
  >
    <div class="row">
      <ActionButton
        size="small"
        text
        severity="secondary"
        icon="pi pi-arrow-left"
        :label="phrase('rig.allDevices')"
        @click="view.go('rig', null)"
      />
    </div>
    <p
      v-if="!device || !link"
      class="soft"
    >
      {{ phrase('rig.noSuchDevice') }}
    </p>
    <template v-else>
      <div class="row apart">
        <TextField
          layout="bare"
          class="name"
          :label="phrase('rig.nameOfDevice', { device: device.name })"
          :value="device.name"
          :maxlength="80"
          @change="rig.rename(device.id, $event)"
        />
        <ActionButton
          size="small"
          text
          severity="secondary"
          icon="pi pi-download"
          :label="phrase('rig.saveKind')"
          @click="download(`${device.capability.model}.json`, writeKindFile(device.capability), 'application/json')"
        />
        <span :class="['state', link.state]">
          <i
            class="pi"
            :class="link.state === 'live' ? 'pi-check-circle' : 'pi-exclamation-triangle'"
          />
          {{ device.address ? phrase(linkWords[link.state]) : phrase('rig.notConnectedYet') }}
          <span
            v-if="link.why"
            class="soft small"
          >{{ link.why }}</span>
        </span>
      </div>
      <dl>
        <div
          v-for="f in facts"
          :key="f.name"
        >
          <dt>{{ f.name }}</dt>
          <dd :class="{ warn: f.warn }">
            {{ f.value }}
          </dd>
        </div>
      </dl>
      <FrontPanel
        :device="device.id"
        :state="state"
        :connected="link.state === 'live'"
      />
      <ComparePanel
        :device="device.id"
        :capability="device.capability"
        :connected="link.state === 'live'"
      />
      <p
        v-if="!sides.length"
        class="soft"
      >
        {{ phrase('rig.noChannels') }}
      </p>
      <template
        v-for="s in sides"
        :key="s.side"
      >
        <h2>{{ s.title }}</h2>
        <FigureTable
          :label="s.title"
          :rows="s.rows"
          :columns="s.columns"
          :row-key="c => c.strip.id"
          :picked="isPicked"
          :row-attributes="c => ({ 'data-strip': c.strip.id })"
          @pick="view.strip = { device: device.id, strip: $event.strip.id }"
        >
          <template #channel="{ row: c }">
            <b>{{ c.strip.name }}</b>
          </template>
        </FigureTable>
      </template>
      <PresetsPanel
        v-if="state.presets.length"
        :device="device"
        :state="state"
        :connected="link.state === 'live'"
      />
      <template v-if="device.capability.leftAlone">
        <h2>{{ phrase('rig.leftAlone') }}</h2>
        <p class="soft">
          {{ phrase('rig.leftAloneWhy') }}
        </p>
        <FigureTable
          :label="phrase('rig.leftAlone')"
          :rows="device.capability.leftAlone"
          :columns="alone"
          :row-key="x => x.at"
        />
      </template>
    </template>
  </section>
</template>

<style scoped>
.name {
  min-width: 18rem;
  font-size: 1.15rem;
}
.state.live {
  color: var(--good);
}
.state:not(.live) {
  color: var(--warn);
}
dl {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem 1.6rem;
  margin: 0.6rem 0;
}
dt {
  color: var(--soft);
  font-size: 0.85rem;
}
dd {
  margin: 0;
}
</style>
