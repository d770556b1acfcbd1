<script setup lang="ts">
import type { BandDecay, DecayFit } from '~~/core/measure'
import { showFrequency, showLevel, showNumber } from '~~/core/units'
import type { FiguresAnswer, FiguresRequest } from '~/workers/messages'
import type { Drawn } from './traces'

/**
 * What an impulse response says of the room: decay over frequency as a map, or times and clarity per band. Computed off
 * the page.
 */
const props = defineProps<{ kind: 'decay-map' | 'decay-times', drawn: Drawn | null }>()
const charts = useCharts()
const answer = shallowRef<FiguresAnswer | null>(null)
const worker = new Worker(new URL('../workers/figures.worker.ts', import.meta.url), { type: 'module' })
onBeforeUnmount(() => worker.terminate())
let busy = false
let wanted = false
let id = 0
function ask() {
  const r = props.drawn?.response
  const s = charts.settings
  if (!r) {
    answer.value = null
    return
  }
  if (busy) {
    wanted = true
    return
  }
  busy = true
  wanted = false
  worker.postMessage({
    id: ++id,
    samples: r.samples,
    sampleRate: r.sampleRate,
    start: r.start,
    what:
      props.kind === 'decay-times'
        ? { kind: 'decay', part: s.decayPart }
        : { kind: 'map', low: 20, high: 18_000, length: s.mapLength, window: s.mapWindow },
  } satisfies FiguresRequest)
}
worker.onmessage = (event: MessageEvent<FiguresAnswer>) => {
  busy = false
  answer.value = event.data
  if (wanted) ask()
}
watch(
  () => [
    props.drawn?.response,
    props.kind,
    charts.settings.decayPart,
    charts.settings.mapLength,
    charts.settings.mapWindow,
  ],
  ask,
  { immediate: true },
)

const fit = (f: DecayFit | null) => (f ? showNumber(f.time, 2) : '–')
const poor = (f: DecayFit | null) => !!f && f.straightness < 0.99
const columns: [string, (b: BandDecay) => DecayFit | null][] = [
  ['EDT s', b => b.early],
  ['T20 s', b => b.t20],
  ['T30 s', b => b.t30],
]
/** What still rings at the limit: the first sentence to read off a decay map. */
const rings = computed(() => {
  const map = answer.value?.map
  if (!map) return null
  const late = Array.from(map.frequencies, (f, k) => ({ f, t: map.falls[k] })).filter(
    x => x.f < 400 && x.t !== null && x.t! > charts.settings.limit,
  )
  if (!late.length)
    return `Below 400 Hz everything has fallen by 20 dB within ${showNumber(charts.settings.limit * 1000, 0)} ms.`
  const worst = late.reduce((a, b) => (b.t! > a.t! ? b : a))
  return `${showFrequency(Math.round(worst.f))} needs ${showNumber(worst.t! * 1000, 0)} ms to fall by 20 dB: `
    + 'EQ lowers a mode, absorption shortens it.'
})
</script>

<template>
  <div
    v-if="!drawn"
    class="table soft"
  >
    <p>Nothing to compute yet: measure, or show a take that has an impulse response.</p>
  </div>
  <div
    v-else-if="kind === 'decay-times'"
    class="table"
    data-testid="decay-times"
  >
    <p
      v-if="answer?.decay"
      class="small"
    >
      <b>{{ drawn.name }}</b> · speech transmission index
      <b class="num">{{ answer.decay.sti === null ? '–' : showNumber(answer.decay.sti, 2) }}</b>{{ ' ' }}
      <span class="soft">without noise. – : the response does not reach far enough above its noise. Pale: the decay
        is no straight line.</span>
    </p>
    <table
      v-if="answer?.decay"
      class="plain"
    >
      <thead>
        <tr>
          <th>Band</th>
          <th
            v-for="c in columns"
            :key="c[0]"
            class="num"
          >
            {{ c[0] }}
          </th>
          <th class="num">
            C50
          </th>
          <th class="num">
            C80
          </th>
          <th class="num">
            D50
          </th>
          <th class="num">
            Range
          </th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="b in answer.decay.bands"
          :key="b.band"
        >
          <td class="num band">
            {{ b.band }}
          </td>
          <td
            v-for="c in columns"
            :key="c[0]"
            class="num"
            :class="{ soft: poor(c[1](b)) }"
          >
            {{ fit(c[1](b)) }}
          </td>
          <td class="num">
            {{ showLevel(b.c50) }}
          </td>
          <td class="num">
            {{ showLevel(b.c80) }}
          </td>
          <td class="num">
            {{ showNumber(b.d50, 2) }}
          </td>
          <td class="num">
            {{ showNumber(b.range, 0) }} dB
          </td>
        </tr>
      </tbody>
    </table>
    <p
      v-else
      class="soft"
    >
      Computing …
    </p>
  </div>
  <template v-else-if="answer?.map">
    <DepthChart
      name="Decay over frequency"
      unit="ms from the arrival"
      :columns="answer.map.frequencies.length"
      :levels="answer.map.levels"
      :floor="-40"
      :low="20"
      :high="18000"
      :from="0"
      :to="charts.settings.mapLength * 1000"
      :mark="charts.settings.limit * 1000"
    />
    <p
      class="rings small"
      data-testid="rings"
      title="Full colour: loudest; no colour: 40 dB under it"
    >
      {{ rings }}
    </p>
  </template>
  <div
    v-else
    class="table soft"
  >
    <p>Computing …</p>
  </div>
</template>

<style scoped>
.table {
  overflow: auto;
  padding: 32px 12px 4px 54px;
  min-height: 0;
}
p {
  margin: 0 0 0.4rem;
}
td.band {
  text-align: left;
}
table.plain td,
table.plain th {
  padding-block: 0.12rem;
}
.rings {
  position: absolute;
  right: 8px;
  bottom: 26px;
  left: 60px;
  margin: 0;
  background: color-mix(in srgb, var(--paper) 84%, transparent);
  padding: 0 0.4rem;
  justify-self: start;
}
</style>
