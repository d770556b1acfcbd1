<script setup lang="ts">
import { splitTap, type Measurement } from '~~/core/measure'
import { isSounding, levelAdvice } from '~~/core/tune'
import { wordsOf } from '~~/core/words'
import { useSite } from '~/document/site'
import { useCorrections } from '~/sound/corrections'
import { useInputs } from '~/sound/inputs'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import LevelMeter from './LevelMeter.vue'
import TapSelect from './TapSelect.vue'
import { phrase } from '~/parts/phrase'

/** One measurement of the set: what it hears, where, its level; opened, everything about it can be chosen here. */
const props = defineProps<{ row: Measurement, opened: boolean }>()
const emit = defineEmits<{ open: [] }>()
const sets = useSets()
const inputs = useInputs()
const listen = useListen()
const corrections = useCorrections()
const site = useSite()
const place = computed(() => sets.placeOf(props.row))
const front = computed(() => listen.front?.id === props.row.id)
const fault = computed(() => sets.faults[props.row.id])
/** Words for its level, while the reference sounds and enough time has passed to tell. */
const advice = computed(() => {
  const level = listen.meters.get(props.row.microphone)
  const reference = listen.meters.get(props.row.reference)
  if (!level || !reference || !isSounding(false, reference)) return null
  if (!listen.frames[props.row.id] || props.row.state !== 'on' || !splitTap(props.row.microphone)) return null
  const told = levelAdvice(level)
  return told && wordsOf(told)
})
const correction = computed(() => inputs.channelOf(props.row.microphone).correction)
const name = computed(() => inputs.labelOf(props.row.microphone))
const change = (patch: Partial<Measurement>) => sets.change(props.row.id, patch)
/** What a real reference can hear: a feed of the rig, or nobody knows. */
const feeds = computed(() => [
  { value: null, label: phrase('listen.unknown') },
  ...Object.entries(site.wiring.feeds).map(([value, { name: label }]) => ({ value, label })),
])
const places = computed(() => [
  { value: null, label: phrase('listen.whereThePickedCell') },
  ...site.positions.map(p => ({ value: p.id, label: p.name })),
])
</script>

<template>
  <li
    :class="{ front, off: row.state === 'off' }"
    :data-measurement="row.id"
    :data-state="fault ? 'refused' : row.state"
  >
    <div class="head">
      <button
        class="plain name"
        :aria-pressed="front"
        :title="front ? phrase('listen.itsNumbersAndFindings') : phrase('listen.showItsNumbersAnd')"
        @click="sets.look(row.id)"
      >
        <b>{{ name }}</b> <span class="soft">{{
          phrase('listen.at', {
            name: place?.name ?? phrase('listen.noPositionYet'),
          })
        }}</span>
      </button>
      <button
        v-if="row.state === 'on'"
        class="plain tool"
        :aria-label="phrase('listen.pause', { name })"
        :title="phrase('listen.pauseTheTraceStays')"
        @click="change({ state: 'paused' })"
      >
        <i class="pi pi-pause" />
      </button>
      <button
        v-else
        class="plain tool"
        :aria-label="phrase('listen.start', { name })"
        :title="phrase('common.resume')"
        @click="change({ state: 'on' })"
      >
        <i class="pi pi-play" />
      </button>
      <button
        v-if="row.state !== 'off'"
        class="plain tool"
        :aria-label="phrase('listen.stop', { name })"
        :title="phrase('listen.stopItsTraceGoes')"
        @click="change({ state: 'off' })"
      >
        <i class="pi pi-stop" />
      </button>
      <button
        class="plain tool"
        :aria-label="phrase('common.settingsOf', { name })"
        :aria-expanded="opened"
        :title="phrase('listen.channelsAndPosition')"
        @click="emit('open')"
      >
        <i class="pi pi-sliders-h" />
      </button>
    </div>
    <p
      v-if="fault"
      class="sentence error"
    >
      {{ fault }}
    </p>
    <LevelMeter
      v-else-if="row.state !== 'off'"
      bare
      :name="name"
      :tap="row.microphone"
    />
    <p
      v-if="advice && !fault"
      class="small advice"
    >
      {{ advice }}
    </p>
    <div
      v-if="opened"
      class="more"
    >
      <TapSelect
        :label="phrase('listen.microphone')"
        :value="row.microphone"
        :name="phrase('listen.microphoneChannel')"
        @change="change({ microphone: $event })"
      />
      <TapSelect
        :label="phrase('common.reference')"
        :value="row.reference"
        :name="phrase('listen.referenceChannel')"
        generator
        @change="change({ reference: $event })"
      />
      <ChoiceField
        v-if="sets.isTold(row)"
        :label="phrase('listen.referenceInput')"
        layout="beside"
        :value="sets.heardFeed(row)"
        :options="feeds"
        @change="change({ hears: $event })"
      />
      <ChoiceField
        :label="phrase('listen.stands')"
        :name="phrase('listen.stands2', { name })"
        layout="beside"
        :value="row.position"
        :options="places"
        @change="change({ position: $event })"
      />
      <div class="row small">
        <span class="soft grow">{{
          phrase('listen.microphoneCorrection', {
            name: correction ? correction.name : phrase('common.none'),
          })
        }}</span>
        <ActionButton
          v-if="correction"
          size="small"
          text
          :label="phrase('common.remove')"
          @click="inputs.changeChannel(row.microphone, { correction: null })"
        />
        <FileField
          v-else
          :label="phrase('listen.loadItsTextFile')"
          :name="phrase('listen.microphoneCorrectionLoadIts')"
          accept=".txt,.csv,.cal,.frd,text/plain,text/csv"
          @pick="corrections.load(row.microphone, $event[0]!)"
        />
      </div>
      <ActionButton
        v-if="sets.rows.length > 1"
        size="small"
        text
        severity="secondary"
        :label="phrase('listen.removeThisMeasurementFrom')"
        @click="sets.remove(row.id)"
      />
    </div>
  </li>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 0.25rem;
  padding: 0.3rem 0 0.4rem 0.55rem;
  border-left: 3px solid var(--rule);
}
li.front {
  border-color: var(--accent);
}
li.off .name {
  opacity: 0.65;
}
.head {
  display: flex;
  align-items: center;
  gap: 0.1rem;
}
.name {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  min-height: 26px;
}
.tool {
  min-width: 26px;
  min-height: 26px;
  text-align: center;
  color: var(--ink-soft);
}
.tool i {
  font-size: 0.8rem;
}
.more {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 0.35rem;
  padding-top: 0.2rem;
}
.grow {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
p {
  margin: 0;
}
.advice {
  color: var(--warn);
}
@media (pointer: coarse) {
  .tool {
    min-width: 44px;
    min-height: 44px;
  }
  .name {
    min-height: 44px;
  }
}
</style>
