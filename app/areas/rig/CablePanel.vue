<script setup lang="ts">
import { cablesBetween, channelsIn, endpointOf, type Endpoint } from '~~/core/rig'
import { toldOf, wordsOf } from '~~/core/words'
import { useRig } from '~/document/useRig'
import { useSite } from '~/document/site'
import { phrase } from '~/parts/phrase'
import { useEnds } from './ends'

/** What is joined to what: cables by their two ends, many at once. */
const site = useSite()
const rig = useRig()
const from = ref('')
const to = ref('')
const outputs = ref('1')
const inputs = ref('1')
const wrong = ref<string | null>(null)
const ends = (side: 'inputs' | 'outputs') => computed(() => site.devices
  .filter(d => d.capability[side].length)
  .map(d => ({ value: d.id, label: d.name })))
const [giving, taking] = [ends('outputs'), ends('inputs')]
const fromId = computed(() => (site.deviceOf(from.value) ? from.value : giving.value[0]?.value ?? ''))
const toId = computed(() =>
  (site.deviceOf(to.value) ? to.value : taking.value.find(d => d.value !== fromId.value)?.value ?? ''))
const endsOf = (device: string, text: string, side: 'inputs' | 'outputs'): Endpoint[] =>
  channelsIn(text, site.deviceOf(device)?.capability[side].length ?? 0).map(channel => ({ device, channel }))

async function connect() {
  wrong.value = null
  try {
    const cables = cablesBetween(
      endsOf(fromId.value, outputs.value, 'outputs'),
      endsOf(toId.value, inputs.value, 'inputs'),
    )
    await rig.connect(cables)
  }
  catch (error) {
    if (!(error instanceof RangeError)) throw error
    wrong.value = wordsOf(toldOf(error))
  }
}

const rows = computed(() => Object.entries(site.wiring.cables)
  .map(([key, output]) => ({ key, input: endpointOf(key), output }))
  .toSorted((a, b) => orderOf(a.output) - orderOf(b.output) || orderOf(a.input) - orderOf(b.input)))
const orderOf = ({ device, channel }: Endpoint) => 1000 * site.devices.findIndex(d => d.id === device) + channel
const { nameOf } = useEnds()
const columns = [
  { id: 'from', name: phrase('rig.from') },
  { id: 'to', name: phrase('rig.to2') },
  { id: 'remove', name: phrase('common.remove'), silent: true, width: '110px' },
]
</script>

<template>
  <h2>{{ phrase('rig.cables') }}</h2>
  <p
    v-if="!fromId || !toId"
    class="soft"
  >
    {{ phrase('rig.oneDevice') }}
  </p>
  <div
    v-else
    class="wish"
    data-testid="cable-form"
  >
    <ChoiceField
      :label="phrase('rig.from')"
      :value="fromId"
      :options="giving"
      @change="from = $event"
    />
    <TextField
      v-model:value="outputs"
      :label="phrase('rig.outputs')"
      placeholder="1-4"
    />
    <ChoiceField
      :label="phrase('rig.to2')"
      :value="toId"
      :options="taking"
      @change="to = $event"
    />
    <TextField
      v-model:value="inputs"
      :label="phrase('rig.inputs')"
      placeholder="1-4"
    />
    <ActionButton
      :label="phrase('rig.connect')"
      @click="connect"
    />
  </div>
  <p
    v-if="wrong"
    class="sentence error"
    role="alert"
  >
    {{ wrong }}
  </p>
  <FigureTable
    v-if="rows.length"
    :label="phrase('rig.cables')"
    :rows="rows"
    :columns="columns"
    :row-key="r => r.key"
    :row-attributes="r => ({ 'data-cable': r.key })"
  >
    <template #from="{ row }">
      {{ nameOf(row.output, 'outputs') }}
    </template>
    <template #to="{ row }">
      {{ nameOf(row.input, 'inputs') }}
    </template>
    <template #remove="{ row }">
      <ActionButton
        size="small"
        text
        :label="phrase('common.remove')"
        :aria-label="phrase('rig.removeCable', { input: nameOf(row.input, 'inputs') })"
        @click="rig.disconnect(row.input)"
      />
    </template>
  </FigureTable>
  <p
    v-else-if="fromId && toId"
    class="soft"
  >
    {{ phrase('rig.noCable') }}
  </p>
</template>

<style scoped>
.wish {
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
  align-items: end;
  margin-bottom: 0.6rem;
}
.wish > * {
  width: 168px;
}
.wish > :nth-child(even) {
  width: 84px;
}
.wish > :last-child {
  width: auto;
}
</style>
