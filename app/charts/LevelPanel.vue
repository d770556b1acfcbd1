<script setup lang="ts">
import type { Drawn } from './traces'
import { showNumber } from '~~/core/units'
import { useCharts } from './useCharts'
import { useListen } from '~/sound/listen'
import { useCalibration } from '~/sound/useCalibration'
import { phrase } from '~/parts/phrase'

/** Sound level now, equivalent, largest, and its history over the last two minutes. */
defineProps<{ drawn: Drawn | null }>()
const listen = useListen()
const charts = useCharts()
const calibration = useCalibration()
const s = computed(() => charts.settings)
const unit = computed(() => (calibration.value ? `dB(${s.value.weighting})` : `dBFS (${s.value.weighting})`))
const show = (v: number | null | undefined) =>
  v === undefined || v === null || !Number.isFinite(v) ? '–' : showNumber(v + calibration.value, 1)
const numbers = computed(() => {
  const level = listen.level!
  const { L10, L50, L90 } = level.exceeded
  return [
    { what: phrase('charts.leqOverS', { seconds: showNumber(level.seconds, 0) }), value: level.equivalent },
    { what: phrase('charts.leqOfTheLast', { runningOver: showNumber(level.runningOver, 0) }), value: level.running },
    { what: 'SEL (L_AE)', value: level.exposure },
    { what: 'largest', value: level.largest },
    { what: 'L10', value: L10 },
    { what: 'L50', value: L50 },
    { what: 'L90', value: L90 },
    { what: `peak, ${s.value.weighting}`, value: level.peak },
    { what: phrase('charts.truePeak'), value: level.truePeak },
  ]
})
const history = ref<number[]>([])
let last = 0
watch(
  () => listen.level,
  (level) => {
    if (!level) {
      history.value = []
      return
    }
    if (performance.now() - last < 500) return
    last = performance.now()
    history.value = [...history.value.slice(-239), Math.max(-120, level.now)]
  },
)
const range = computed(() => {
  const top = Math.ceil((Math.max(-60, ...history.value) + 3) / 10) * 10
  return [top - 50, top] as const
})
/** The lines of the level's axis, from the top down. */
const scale = computed(() =>
  Array.from({ length: 6 }, (_, n) => showNumber(range.value[1] - 10 * n + calibration.value, 0)))
const path = computed(() =>
  history.value
    .map(
      (v, k) =>
        `${k ? 'L' : 'M'}${(240 - history.value.length + k) * 2.5} `
        + ((100 * (range.value[1] - Math.max(range.value[0], v))) / 50).toFixed(1),
    )
    .join(''),
)
</script>

<template>
  <div
    class="table"
    data-testid="level"
  >
    <p
      v-if="!listen.level"
      class="soft"
    >
      {{ phrase('charts.theLevelAppearsWhile') }}
    </p>
    <template v-else>
      <div class="numbers">
        <div>
          <span class="big num">{{ show(listen.level.now) }}</span> {{ unit }}<br>
          <span class="soft small">{{ phrase('charts.now', { detector: s.detector }) }}</span>
        </div>
        <div
          v-for="n in numbers"
          :key="n.what"
        >
          <span class="big num">{{ show(n.value) }}</span><br><span class="soft small">{{ n.what }}</span>
        </div>
      </div>
      <div
        class="history small soft num"
        role="img"
        :aria-label="phrase('charts.levelOverTheLast', { least: scale.at(-1)!, most: scale[0]!, unit })"
      >
        <span class="unit">{{ unit }}</span>
        <span class="scale"><span
          v-for="v in scale"
          :key="v"
        >{{ v }}</span></span>
        <svg
          viewBox="0 0 600 100"
          preserveAspectRatio="none"
        >
          <line
            v-for="(v, n) in scale"
            :key="v"
            x1="0"
            x2="600"
            :y1="n * 20"
            :y2="n * 20"
            class="rule"
          />
          <path :d="path" />
        </svg>
        <span class="time">
          <span>{{ phrase('charts.minAgo') }}</span>
          <span>{{ phrase('charts.minAgo2') }}</span>
          <span>{{ phrase('charts.now2') }}</span>
        </span>
      </div>
      <p
        v-if="!calibration"
        class="soft small"
      >
        {{ phrase('charts.notCalibratedSetWhat') }}
      </p>
    </template>
  </div>
</template>

<style scoped>
.table {
  overflow: auto;
  padding: 4px 12px 4px 16px;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(220px, 2fr) minmax(220px, 3fr);
  gap: 0 1.2rem;
  align-content: start;
}
.table > p {
  grid-column: 1 / -1;
}
.numbers {
  display: flex;
  flex-wrap: wrap;
  gap: 0.2rem 1.1rem;
  align-content: start;
}
.numbers .big {
  font-size: 1.1rem;
}
.numbers > :first-child {
  flex-basis: 100%;
}
.numbers > :first-child .big {
  font-size: 1.7rem;
}
.history {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 2px 8px;
  align-content: start;
}
.unit {
  grid-column: 1 / -1;
}
.scale {
  display: flex;
  flex-direction: column;
  justify-content: space-between;
  text-align: right;
  height: 106px;
  line-height: 16px;
}
svg {
  width: 100%;
  height: 90px;
  margin: 8px 0;
}
.time {
  grid-column: 2;
  display: flex;
  justify-content: space-between;
}
.rule {
  stroke: var(--rule);
}
path {
  fill: none;
  stroke: var(--accent);
  stroke-width: 1.5;
  vector-effect: non-scaling-stroke;
}
p {
  margin: 0;
}
</style>
