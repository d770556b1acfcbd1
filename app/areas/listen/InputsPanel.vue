<script setup lang="ts">
import { message } from '~~/core/words'
import { generatorTap, tapOf } from '~~/core/measure'
import { quantities } from '~~/core/units'
import type { TableColumn } from '~/parts/columns'
import { useInputs, type ListedDevice } from '~/sound/inputs'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { useComputerInputs } from '~/sound/computerInputs'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import LevelMeter from './LevelMeter.vue'
import { phrase } from '~/parts/phrase'

/** Every sound input and output in one place: named, labelled, hidden, metered. */
const inputs = useInputs()
const sets = useSets()
const computer = useComputerInputs()
const view = useView()
const listen = useListen()
const notices = useNotices()
onMounted(() => void computer.list().catch(() => {}))
const showHidden = ref(false)
const shown = (list: ListedDevice[]) => list.filter(i => showHidden.value || !i.device.hidden)
const hidden = computed(() => [...inputs.inputs, ...inputs.outputs].filter(i => i.device.hidden).length)
const used = computed(
  () =>
    new Map(
      sets.rows.flatMap(
        m =>
          [
            [m.reference, phrase('listen.asReference')],
            [m.microphone, phrase('listen.asMicrophone')],
          ] as const,
      ),
    ),
)
const rowsOf = (i: ListedDevice) =>
  i.device.channels.map((channel, n) => ({ n, channel, tap: tapOf(i.device.key, n) }))
type Row = ReturnType<typeof rowsOf>[number]
const columns: TableColumn<Row>[] = [
  { id: 'channel', name: phrase('listen.channel'), text: r => r.n + 1 },
  { id: 'label', name: phrase('listen.label') },
  { id: 'gain', name: phrase('common.gain'), width: '124px' },
  {
    id: 'used',
    name: phrase('listen.usedAs'),
    text: ({ tap, channel }) =>
      [
        used.value.get(tap) ?? '',
        channel.correction && phrase('listen.corrected'),
        channel.calibration && phrase('listen.calibrated'),
      ]
        .filter(Boolean).join(', '),
  },
  { id: 'level', name: phrase('common.level'), width: '190px' },
]
function state(i: ListedDevice) {
  if (i.simulated) return phrase('listen.simulatedAlwaysThere')
  return i.present ? phrase('listen.pluggedIn') : phrase('listen.notPluggedIn')
}
function clean() {
  const undoInputs = inputs.clean()
  const undoSets = sets.clean()
  void computer.list().catch(() => {})
  notices.say(
    'warn',
    message('inputs.reset'),
    {
      act: {
        name: phrase('common.restore'),
        run: () => {
          undoInputs()
          undoSets()
        },
      },
    },
  )
}
</script>

<template>
  <section
    class="plate sheet"
    tabindex="0"
    :aria-label="phrase('listen.inputsAndOutputs')"
  >
    <header class="row apart">
      <h2>{{ phrase('listen.inputsAndOutputs') }}</h2>
      <div class="row">
        <ActionButton
          v-if="hidden"
          size="small"
          text
          :label="showHidden ? phrase('listen.hideTheHidden') : phrase('listen.showHidden', { hidden })"
          @click="showHidden = !showHidden"
        />
        <ActionButton
          size="small"
          text
          :label="phrase('listen.resetInputsAndOutputs')"
          :title="phrase('listen.resetEveryNameLabel')"
          @click="clean"
        />
        <ActionButton
          size="small"
          severity="secondary"
          :label="phrase('common.charts')"
          @click="view.plate = null"
        />
      </div>
    </header>
    <p class="soft">
      {{
        phrase('listen.renameDevicesLabelChannels', {
          levels: listen.running ? '' : phrase('listen.levelsShowOnThe'),
        })
      }}
    </p>
    <article
      v-for="i in shown(inputs.inputs)"
      :key="i.device.key"
      class="panel"
      :class="{ away: !i.present, hidden: i.device.hidden }"
      :data-input="i.device.key"
    >
      <div class="row head">
        <TextField
          class="name"
          :label="phrase('common.name')"
          layout="bare"
          :value="i.device.name"
          :placeholder="i.device.label"
          :name="phrase('listen.nameOf', { label: i.device.label })"
          :maxlength="60"
          @change="inputs.changeInput(i.device.key, { name: $event.trim() })"
        />
        <span class="soft small">{{
          state(i)
        }}{{ i.device.name ? phrase('listen.theMachineCallsIt', { label: i.device.label }) : '' }}</span>
        <ActionButton
          size="small"
          text
          :label="i.device.hidden ? phrase('common.show') : phrase('listen.hide')"
          :aria-label="`${i.device.hidden ? phrase('common.show') : phrase('listen.hide')} ${inputs.nameOf(i.device)}`"
          @click="inputs.changeInput(i.device.key, { hidden: !i.device.hidden })"
        />
      </div>
      <FigureTable
        v-if="!i.device.hidden"
        class="channels"
        :label="phrase('listen.channelsOf', { name: inputs.nameOf(i.device) })"
        :rows="rowsOf(i)"
        :columns="i.simulated ? columns : columns.filter(c => c.id !== 'gain')"
        :row-key="r => r.tap"
      >
        <template #label="{ row: r }">
          <TextField
            layout="bare"
            :value="r.channel.name"
            :placeholder="phrase('listen.noLabel')"
            :label="phrase('listen.labelOfChannelOf', { n: r.n + 1, label: i.device.label })"
            :maxlength="60"
            @change="inputs.changeChannel(r.tap, { name: $event.trim() })"
          />
        </template>
        <template #gain="{ row: r }">
          <NumberField
            :label="phrase('listen.gainOfChannelOf', { n: r.n + 1, label: i.device.label })"
            layout="bare"
            :value="r.channel.gain"
            v-bind="quantities.level"
            @change="inputs.changeChannel(r.tap, { gain: Math.max(-60, Math.min(60, $event)) })"
          />
        </template>
        <template #level="{ row: r }">
          <LevelMeter
            v-if="used.has(r.tap)"
            bare
            :name="phrase('listen.asListed', { label: inputs.labelOf(r.tap, true) })"
            :tap="r.tap"
          /><span
            v-else
            class="soft small"
          >{{ phrase('listen.notInUse') }}</span>
        </template>
      </FigureTable>
    </article>
    <article class="panel">
      <div class="row head">
        <b>{{ inputs.labelOf(generatorTap) }}</b>
        <span class="soft small">{{ phrase('listen.anInternalReferenceFor') }}</span>
      </div>
    </article>
    <h2>{{ phrase('listen.outputs') }}</h2>
    <p
      v-if="!inputs.outputs.length"
      class="soft"
    >
      {{ phrase('listen.pressListenOnThe') }}
    </p>
    <article
      v-for="o in shown(inputs.outputs)"
      :key="o.device.key"
      class="panel"
      :class="{ away: !o.present, hidden: o.device.hidden }"
    >
      <div class="row head">
        <TextField
          class="name"
          :label="phrase('common.name')"
          layout="bare"
          :value="o.device.name"
          :placeholder="o.device.label"
          :name="phrase('listen.nameOfOutput', { label: o.device.label })"
          :maxlength="60"
          @change="inputs.changeOutput(o.device.key, { name: $event.trim() })"
        />
        <span class="soft small">{{
          state(o)
        }}{{ computer.output === o.device.key ? phrase('listen.theNoisePlaysHere') : '' }}</span>
        <ActionButton
          size="small"
          text
          :label="o.device.hidden ? phrase('common.show') : phrase('listen.hide')"
          :aria-label="phrase('listen.output', {
            act: o.device.hidden ? phrase('common.show') : phrase('listen.hide'),
            name: inputs.nameOf(o.device),
          })"
          @click="inputs.changeOutput(o.device.key, { hidden: !o.device.hidden })"
        />
      </div>
    </article>
  </section>
</template>

<style scoped>
article {
  padding: 0.5rem 0.8rem;
  display: grid;
  gap: 0.4rem;
}
article.away,
article.hidden {
  opacity: 0.75;
}
.head {
  min-height: 34px;
}
.head > .soft {
  flex: 1;
}
.name {
  width: 260px;
  font-weight: 650;
}
.channels :deep(td) {
  vertical-align: middle;
}
p {
  margin: 0;
  max-width: 70ch;
}
</style>
