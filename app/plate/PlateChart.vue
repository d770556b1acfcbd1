<script setup lang="ts">
import { standardGrid, stepResponse } from '~~/core/dsp'
import { fractionalOctaves } from '~~/core/measure'
import { chartKinds, type ChartKind } from '~/frame/charts'
import { chartSvg, pngOf, svgOfCanvas } from '~/utils/chartSvg'
import { download } from '~/utils/download'
import {
  coherenceTrace,
  groupDelayTrace,
  harmonicTraces,
  magnitudeTrace,
  phaseTrace,
  timeTrace,
  type Drawn,
  type Trace,
} from './traces'

/** One chart of the plate: its kind and its settings are chosen where it stands. */
const props = defineProps<{
  place: number
  title: string
  kind: ChartKind
  drawn: Drawn[]
  cursor: number | null
  pinned: number | null
  removable: boolean
}>()
const emit = defineEmits<{ cursor: [index: number | null], pin: [index: number | null] }>()
const charts = useCharts()
const listen = useListen()
const sets = useSets()
const inputs = useInputs()
const open = ref(false)
const s = computed(() => charts.settings)
const name = computed(() => chartKinds[props.kind].name)

const frequency = computed(() => ({ kind: 'frequency' as const, min: s.value.low, max: s.value.high }))
const times = computed(() =>
  Float64Array.from({ length: 900 }, (_, k) => (-0.15 + (1.15 * k) / 899) * s.value.time * 1000),
)
const time = computed(() => ({ kind: 'time' as const, min: times.value[0]!, max: times.value[899]! }))
/**
 * What does not change with every block of the running measurement: drawn anew only when a response or its look does.
 */
const still = computed<Drawn[]>((old) => {
  const next = props.drawn.filter(d => d.response || d.harmonics)
  const same = (a: Drawn, b: Drawn | undefined) =>
    b && a.id === b.id && a.response === b.response && a.hue === b.hue && a.name === b.name
  return old && old.length === next.length && next.every((d, k) => same(d, old[k])) ? old : next
})
const withResponse = computed(() => still.value.filter(d => d.response))
const envelopeOf = useEnvelopes(
  () => withResponse.value,
  () => props.kind === 'envelope',
)
/** A running measurement's envelope stays until its next one is there. */
const lastEnvelopes = new Map<string, Float32Array>()
/** Whose room figures are shown: the running measurement's while it sounds, else the newest take's. */
const subject = computed(
  () =>
    (listen.noise ? undefined : withResponse.value.findLast(d => d.id !== 'live'))
    ?? withResponse.value.at(-1)
    ?? null,
)

const spectrumBands = fractionalOctaves(24, 16, 20_000)
/** Peaks held so far, by trace. */
const held = new Map<string, Float32Array>()
watch(
  () => [s.value.hold, s.value.part],
  () => held.clear(),
)
/** Levels of 24ths gathered into wider bands, as a staircase on the standard grid. */
function spectrumTrace(
  id: string,
  name: string,
  levels: ArrayLike<number>,
  look: { hue: number, dash: number, strong: boolean },
): Trace {
  const bands = fractionalOctaves(s.value.part, 16, 20_000)
  const before = held.get(id)
  const wide = Float32Array.from(
    bands,
    b =>
      10
      * Math.log10(
        spectrumBands.reduce(
          (sum, t, k) => (t.middle >= b.low && t.middle < b.high ? sum + 10 ** (levels[k]! / 10) : sum),
          1e-20,
        ),
      ),
  )
  if (s.value.hold && before?.length === wide.length)
    wide.forEach((v, k) => {
      wide[k] = Math.max(v, before[k]!)
    })
  held.set(id, wide)
  const values = Float64Array.from(standardGrid, (f) => {
    const k = bands.findIndex(b => f >= b.low && f < b.high)
    return k < 0 || wide[k]! < -150 ? Number.NaN : wide[k]!
  })
  return { id, name, ...look, predicted: false, values, trusted: Array.from(values, () => true) }
}
/** The front measurement's reference and microphone, and every further microphone. */
function spectrumTraces(): Trace[] {
  if (!listen.spectrum) return []
  const further = sets.able.filter(
    m => m.id !== listen.front?.id && m.microphone !== listen.front?.microphone && listen.spectra.has(m.microphone),
  )
  return [
    spectrumTrace('reference', 'reference', listen.spectrum.reference, { hue: 5, dash: 2, strong: false }),
    ...further.map((m, n) =>
      spectrumTrace(
        m.id,
        sets.placeOf(m)?.name ?? inputs.labelOf(m.microphone),
        listen.spectra.get(m.microphone)!,
        { hue: (n + 1) % 5, dash: sets.placeOf(m)?.dash ?? 0, strong: false },
      ),
    ),
    spectrumTrace('microphone', 'microphone', listen.spectrum.microphone, { hue: 0, dash: 0, strong: true }),
  ]
}

/** Largest level drawn where it matters, for charts whose top follows. */
const top = ref(12)
const delays = ref<[number, number]>([-5, 15])
const traces = computed<Trace[]>(() => {
  switch (props.kind) {
    case 'impulse':
      return withResponse.value.map(x => timeTrace(x, times.value, 'linear'))
    case 'envelope':
      return withResponse.value.flatMap((x) => {
        const hull = envelopeOf(x.response!.samples) ?? lastEnvelopes.get(x.id)
        if (hull) lastEnvelopes.set(x.id, hull)
        return hull ? [timeTrace(x, times.value, 'dB', hull)] : []
      })
    case 'step':
      return withResponse.value.map(x => timeTrace(x, times.value, 'step', stepResponse(x.response!.samples)))
    case 'distortion': {
      const swept = still.value.findLast(x => x.harmonics)
      return swept ? harmonicTraces(swept) : []
    }
    case 'spectrum':
      return spectrumTraces()
  }
  const t = s.value.trust
  const d = props.drawn
  switch (props.kind) {
    case 'magnitude':
      return d.map(x => magnitudeTrace(x, t))
    case 'phase':
      return d
        .filter(x => x.id === 'live' || x.id === 'ahead' || !d.some(y => y.id === 'live'))
        .map(x => phaseTrace(x, t, s.value.unwrapped))
    case 'coherence':
      return d.filter(x => x.curve.coherence && !x.predicted).map(coherenceTrace)
    case 'group-delay':
      return d.map(x => groupDelayTrace(x, t))
    default:
      return []
  }
})
const matters = computed(() =>
  [...standardGrid.keys()].filter(
    k => standardGrid[k]! > Math.max(40, s.value.low) && standardGrid[k]! < Math.min(16_000, s.value.high),
  ),
)
watch(
  traces,
  (list) => {
    if (props.kind === 'magnitude' || props.kind === 'spectrum') {
      let peak = -Infinity
      for (const { values } of list) for (const k of matters.value) if (values[k]! > peak) peak = values[k]!
      const room = props.kind === 'spectrum' ? 10 : 4 // the chart's name stands in it
      if (Number.isFinite(peak) && (peak > top.value - 1 || peak < top.value - 15 - room))
        top.value = Math.ceil((peak + room) / 6) * 6
    }
    if (props.kind === 'group-delay' || (props.kind === 'phase' && s.value.unwrapped)) {
      const sorted = list
        .flatMap(t => matters.value.map(k => t.values[k]!).filter(Number.isFinite))
        .sort((a, b) => a - b)
      if (!sorted.length) return
      const low = sorted[Math.floor(sorted.length * 0.03)]!
      const high = sorted[Math.floor(sorted.length * 0.97)]!
      const fine = high - low > 40 ? 20 : 5
      const step = props.kind === 'phase' ? 180 : fine
      const next: [number, number] = [Math.floor(low / step - 0.3) * step, Math.ceil(high / step + 0.3) * step]
      if (next[0] !== delays.value[0] || next[1] !== delays.value[1]) delays.value = next
    }
  },
  { immediate: true },
)

/** Unit, lowest, highest and step of the level axis. */
const axis = computed<{ unit: string, min: number, max: number, step: number | undefined }>(() => {
  const { span } = s.value
  const dB = [3, 6, 12][Number(span > 30) + Number(span > 60)]!
  switch (props.kind) {
    case 'magnitude':
      return { unit: 'dB, microphone over reference', min: top.value - span, max: top.value, step: dB }
    case 'phase':
      return s.value.unwrapped
        ? { unit: 'degrees, unwrapped', min: delays.value[0], max: delays.value[1], step: undefined }
        : { unit: 'degrees', min: -180, max: 180, step: 90 }
    case 'group-delay':
      return { unit: 'ms', min: delays.value[0], max: delays.value[1], step: undefined }
    case 'coherence':
      return { unit: '0 to 1', min: 0, max: 1, step: 0.5 }
    case 'impulse':
      return { unit: 'parts of its peak, over ms from the arrival', min: -1.05, max: 1.05, step: 0.5 }
    case 'envelope':
      return { unit: 'dB under its peak (Hilbert envelope), over ms from the arrival', min: -72, max: 3, step: 12 }
    case 'step':
      return { unit: 'parts of its peak, over ms from the arrival', min: -1.3, max: 1.3, step: 0.5 }
    case 'spectrum':
      return {
        unit: `dBFS per 1/${s.value.part} octave`,
        min: top.value - Math.max(60, span),
        max: top.value,
        step: 12,
      }
    case 'distortion':
      return {
        unit: props.drawn.some(d => d.harmonics)
          ? 'dB over the fundamental, by the frequency played'
          : 'appears for a take made by sweep',
        min: -90,
        max: 0,
        step: 12,
      }
    case 'decay-map':
      return { unit: 'ms from the arrival; depth of colour: level', min: 0, max: 0, step: 0 }
    case 'spectrogram':
      return { unit: 'seconds ago; depth of colour: level', min: 0, max: 0, step: 0 }
    default:
      return { unit: '', min: 0, max: 1, step: 1 }
  }
})
const overFrequency = computed(() => !['impulse', 'envelope', 'step'].includes(props.kind))
const isCurve = computed(() =>
  [
    'magnitude',
    'phase',
    'coherence',
    'group-delay',
    'impulse',
    'envelope',
    'step',
    'spectrum',
    'distortion',
  ].includes(props.kind),
)
const figure = useTemplateRef('figure')
async function save(type: 'svg' | 'png') {
  if (!isCurve.value) {
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
      xs: overFrequency.value ? standardGrid : times.value,
      x: overFrequency.value ? frequency.value : time.value,
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
      <select
        class="kind"
        :value="kind"
        :aria-label="`Chart ${place + 1}`"
        @change="charts.set(place, ($event.target as HTMLSelectElement).value as ChartKind)"
      >
        <option
          v-for="(k, id) in chartKinds"
          :key="id"
          :value="id"
        >
          {{ k.name }}
        </option>
      </select>
      <span
        v-if="axis.unit"
        class="soft unit"
      >{{ axis.unit }}</span>
      <button
        class="plain tool"
        :aria-expanded="open"
        :aria-label="`Settings of ${name}`"
        title="How this chart is shown"
        @click="open = !open"
      >
        <i class="pi pi-sliders-h" />
      </button>
      <button
        v-if="removable"
        class="plain tool"
        :aria-label="`Close ${name}`"
        title="Close this chart"
        @click="charts.remove(place)"
      >
        <i class="pi pi-times" />
      </button>
    </figcaption>
    <CurveChart
      v-if="isCurve"
      :name="name"
      :unit="axis.unit"
      :min="axis.min"
      :max="axis.max"
      :step="axis.step"
      :traces="traces"
      :xs="overFrequency ? standardGrid : times"
      :x="overFrequency ? frequency : time"
      :cursor="overFrequency ? cursor : null"
      :pinned="overFrequency ? pinned : null"
      :line="kind === 'magnitude' ? s.line : null"
      @cursor="overFrequency && emit('cursor', $event)"
      @pin="overFrequency && emit('pin', $event)"
    />
    <SpectrogramChart v-else-if="kind === 'spectrogram'" />
    <DecayPanel
      v-else-if="kind === 'decay-map' || kind === 'decay-times'"
      :kind="kind"
      :drawn="subject"
    />
    <LevelPanel v-else />
    <ChartSettings
      v-if="open"
      :kind="kind"
      :drawable="isCurve ? traces.length > 0 : kind === 'spectrogram' || kind === 'decay-map'"
      @close="open = false"
      @picture="save"
    />
  </figure>
</template>

<style scoped>
.slot {
  margin: 0;
  display: grid;
  min-height: 0;
  min-width: 0;
  position: relative;
}
.slot > :deep(.area),
.slot > :deep(.table) {
  grid-area: 1 / 1;
}
figcaption {
  position: absolute;
  left: 54px;
  top: 3px;
  font-size: 0.9rem;
  z-index: 2;
  background: color-mix(in srgb, var(--paper) 82%, transparent);
  padding: 0 0.2rem;
  display: flex;
  align-items: center;
  gap: 0.35rem;
}
.kind {
  width: auto;
  field-sizing: content;
  height: 25px;
  font-weight: 650;
  border-color: transparent;
  background: transparent;
  padding: 0;
}
.kind:hover,
.kind:focus {
  border-color: var(--rule-strong);
  background: var(--paper);
}
.kind option {
  background: var(--paper);
  font-weight: 400;
}
.unit {
  white-space: nowrap;
}
.tool {
  min-width: 26px;
  min-height: 25px;
  text-align: center;
  color: var(--ink-soft);
}
@media (pointer: coarse) {
  .kind {
    height: 40px;
  }
  .tool {
    min-width: 44px;
    min-height: 44px;
  }
}
</style>
