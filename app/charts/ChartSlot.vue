<script setup lang="ts">
import { standardGrid } from '~~/core/dsp'
import { chartSvg, pngOf, svgOfCanvas } from './chartSvg'
import { download } from '~/parts/download'
import type { ChartAxis, ChartContext } from './kind'
import { chartKindIds, chartKinds, type ChartKind } from './registry'
import type { Drawn, Trace } from './traces'
import { useCharts } from './useCharts'
import { useEnvelopes } from './useEnvelopes'
import { useSpectrumTraces } from './useSpectrumTraces'
import ChartSettings from './ChartSettings.vue'
import { choicesOf } from '~/parts/choices'
import { useNotices } from '~/parts/notices'
import { useEngine } from '~/sound/engine'
import { useListen } from '~/sound/listen'
import CurveChart from './CurveChart.vue'
import { phrase } from '~/parts/phrase'

/** One chart of the plate: its kind and its settings are chosen where it stands. */
const props = defineProps<{
  place: number
  title: string
  kind: ChartKind
  drawn: Drawn[]
  cursor: number | null
  pinned: number | null
  removable: boolean
  /** Width that the names at the right need in all charts together. */
  strip: number
}>()
const emit = defineEmits<{ cursor: [index: number | null], pin: [index: number | null] }>()
const charts = useCharts()
const listen = useListen()
const engine = useEngine()
const s = computed(() => charts.settings)
const definition = computed(() => chartKinds[props.kind])
const name = computed(() => definition.value.name)
const kinds = choicesOf(chartKindIds, id => chartKinds[id].name)

const times = computed(() =>
  Float64Array.from({ length: 900 }, (_, k) => (-0.15 + (1.15 * k) / 899) * s.value.time * 1000),
)
const overFrequency = computed(() => definition.value.over === 'frequency')
const xs = computed(() => (overFrequency.value ? standardGrid : times.value))
const x = computed(() =>
  overFrequency.value
    ? { kind: 'frequency' as const, min: s.value.low, max: s.value.high }
    : { kind: 'time' as const, min: times.value[0]!, max: times.value[899]! })
/** What does not change with every block of the running measurement: new only when a response or its look is. */
const still = computed<Drawn[]>((old) => {
  const next = props.drawn.filter(d => d.response || d.harmonics)
  const same = (a: Drawn, b: Drawn | undefined) =>
    b && a.id === b.id && a.response === b.response && a.hue === b.hue && a.name === b.name
  return old && old.length === next.length && next.every((d, k) => same(d, old[k])) ? old : next
})
const responses = computed(() => still.value.filter(d => d.response))
const envelopes = useEnvelopes(() => responses.value, () => props.kind === 'envelope')
/** A running measurement's envelope stays until its next one is there. */
const lastEnvelopes = new Map<string, Float32Array>()
function envelopeOf(d: Drawn) {
  const hull = envelopes(d.response!.samples) ?? lastEnvelopes.get(d.id)
  if (hull) lastEnvelopes.set(d.id, hull)
  return hull
}
/** Whose room figures are shown: the running measurement's while it sounds, else the newest take's. */
const subject = computed(
  () =>
    (listen.noise ? undefined : responses.value.findLast(d => d.id !== 'live')) ?? responses.value.at(-1) ?? null,
)
const spectra = useSpectrumTraces()
const range = ref<readonly [number, number]>([-5, 12])
const context = computed<ChartContext>(() => ({
  s: s.value,
  drawn: props.drawn,
  responses: responses.value,
  swept: still.value.filter(d => d.harmonics),
  times: times.value,
  range: range.value,
  envelopeOf,
  spectra,
}))
const traces = computed<Trace[]>(() => definition.value.traces?.(context.value) ?? [])
const matters = computed(() =>
  [...standardGrid.keys()].filter(
    k => standardGrid[k]! > Math.max(40, s.value.low) && standardGrid[k]! < Math.min(16_000, s.value.high),
  ),
)
watch(
  traces,
  (list) => {
    const next = definition.value.fit?.(list, matters.value, range.value, s.value)
    if (next && (next[0] !== range.value[0] || next[1] !== range.value[1])) range.value = next
  },
  { immediate: true },
)
const axis = computed<ChartAxis>(() => definition.value.axis(context.value))
/** A running measurement of one block length has nothing below what its blocks resolve: the chart says so. */
const nothingBelow = computed(() => {
  const lowest = listen.running && definition.value.byBlocks ? engine.lowest(listen.sampleRate) : 0
  return lowest > Math.max(20, s.value.low) ? lowest : null
})
const zoomed = computed(() => overFrequency.value && (s.value.low > 18 || s.value.high < 20_500))
function zoom([low, high]: [number, number]) {
  Object.assign(s.value, { low: Math.max(18, low), high: Math.min(20_500, high) })
}
const alone = computed(() => charts.alone === props.place)
const turnAlone = () => {
  charts.alone = alone.value ? null : props.place
}
const figure = useTemplateRef('figure')
async function save(type: 'svg' | 'png') {
  if (!definition.value.over) {
    const canvas = figure.value?.querySelector('canvas')
    if (canvas)
      download(
        `${props.title}: ${name.value}.${type}`,
        type === 'svg'
          ? svgOfCanvas(canvas, `${props.title}: ${name.value}`, axis.value.unit)
          : await pngOf(svgOfCanvas(canvas, `${props.title}: ${name.value}`, axis.value.unit)),
        type === 'svg' ? 'image/svg+xml' : 'image/png',
      )
    return
  }
  const { min, max, unit, step } = axis.value
  const title = `${props.title}: ${name.value}`
  try {
    const svg = chartSvg({
      title,
      unit,
      traces: traces.value,
      xs: xs.value,
      x: x.value,
      min,
      max,
      step: step ?? (max - min) / 6,
    })
    download(
      `${title}.${type}`,
      type === 'svg' ? svg : await pngOf(svg),
      type === 'svg' ? 'image/svg+xml' : 'image/png',
    )
  }
  catch (error) {
    useNotices().fail(error)
  }
}
</script>

<template>
  <figure
    ref="figure"
    class="slot"
  >
    <figcaption>
      <b v-if="place < 0">{{ name }}</b>
      <ChoiceField
        v-else
        class="kind"
        :label="phrase('charts.chart', { place: place + 1 })"
        layout="bare"
        :value="kind"
        :options="kinds"
        @change="charts.set(place, $event)"
      />
      <span
        class="soft unit small"
        :title="axis.unit"
      >{{ axis.unit }}<template v-if="nothingBelow"><b data-testid="nothing-below">{{
        phrase('charts.nothingBelowHzBlocks', {
          nothingBelow: Math.round(nothingBelow),
          engine: engine.length,
        })
      }}</b></template></span>
      <button
        v-if="zoomed"
        class="plain tool words"
        :title="phrase('charts.backToTheWhole')"
        @click="zoom([18, 20500])"
      >
        {{ phrase('charts.wholeRange') }}
      </button>
      <PopButton
        label=""
        icon="pi pi-sliders-h"
        :name="phrase('common.settingsOf', { name })"
        :title="phrase('charts.howThisChartIs')"
      >
        <ChartSettings
          :kind="kind"
          :drawable="definition.over ? traces.length > 0 : kind === 'spectrogram' || kind === 'decay-map'"
          @picture="save"
        />
      </PopButton>
      <button
        v-if="removable"
        class="plain tool"
        :aria-pressed="alone"
        :aria-label="phrase('charts.aloneOnThePlate', { name })"
        :title="alone ? phrase('charts.showTheOtherCharts') : phrase('charts.enlargeThisChartDouble')"
        @click="turnAlone"
      >
        <i
          class="pi"
          :class="alone ? 'pi-window-minimize' : 'pi-window-maximize'"
        />
      </button>
      <button
        v-if="removable && !alone"
        class="plain tool"
        :aria-label="phrase('charts.close', { name })"
        :title="phrase('charts.closeThisChart')"
        @click="charts.remove(place)"
      >
        <i class="pi pi-times" />
      </button>
    </figcaption>
    <CurveChart
      v-if="definition.over"
      :name="name"
      :unit="axis.unit"
      :min="axis.min"
      :max="axis.max"
      :step="axis.step"
      :traces="traces"
      :xs="xs"
      :x="x"
      :cursor="overFrequency ? cursor : null"
      :pinned="overFrequency ? pinned : null"
      :line="definition.hasLine ? s.line : null"
      :strip="strip"
      @cursor="overFrequency && emit('cursor', $event)"
      @pin="overFrequency && emit('pin', $event)"
      @zoom="overFrequency && zoom($event)"
      @dblclick="removable && turnAlone()"
    >
      <template
        v-if="definition.handles"
        #default="{ area }"
      >
        <component
          :is="definition.handles"
          :area="area"
          :x="x"
          :min="axis.min"
          :max="axis.max"
        />
      </template>
    </CurveChart>
    <component
      :is="definition.view"
      v-else
      :drawn="subject"
    />
  </figure>
</template>

<style scoped>
.slot {
  margin: 0;
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  height: 100%;
  min-height: 0;
  min-width: 0;
  position: relative;
}
figcaption {
  padding-left: 46px;
  display: flex;
  align-items: center;
  gap: 0.35rem;
  min-width: 0;
  font-size: 0.9rem;
}
.kind {
  flex: none;
  font-weight: 650;
  --field-height: 26px;
  --field-line: none;
}
.unit {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  flex: 0 1 auto;
}
.unit b {
  font-weight: 500;
}
.tool {
  min-width: 26px;
  min-height: 25px;
  text-align: center;
  color: var(--ink-soft);
  flex: none;
}
figcaption :deep(.p-button) {
  width: 26px;
  height: 26px;
  padding: 0;
  flex: none;
}
.words {
  color: var(--accent);
  padding: 0 0.3rem;
}
@media (pointer: coarse) {
  .kind {
    --field-height: 40px;
  }
  .tool {
    min-width: 44px;
    min-height: 44px;
  }
}
</style>
