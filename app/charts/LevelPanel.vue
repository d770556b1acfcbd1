<script setup lang="ts">
import type { Drawn } from './traces'
import { showNumber } from '~~/core/units'

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
    { what: `Leq over ${showNumber(level.seconds, 0)} s`, value: level.equivalent },
    { what: `Leq of the last ${showNumber(level.runningOver, 0)} s`, value: level.running },
    { what: 'exposure, all in 1 s', value: level.exposure },
    { what: 'largest', value: level.largest },
    { what: 'L10', value: L10 },
    { what: 'L50', value: L50 },
    { what: 'L90', value: L90 },
    { what: `peak, ${s.value.weighting}`, value: level.peak },
    { what: 'true peak', value: level.truePeak },
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
      The level appears while something is measured.
    </p>
    <template v-else>
      <div class="numbers">
        <div>
          <span class="big num">{{ show(listen.level.now) }}</span> {{ unit }}<br>
          <span class="soft small">now, {{ s.detector }}</span>
        </div>
        <div
          v-for="n in numbers"
          :key="n.what"
        >
          <span class="big num">{{ show(n.value) }}</span><br><span class="soft small">{{ n.what }}</span>
        </div>
      </div>
      <svg
        viewBox="-34 -4 640 122"
        preserveAspectRatio="none"
        role="img"
        aria-label="Level over the last two minutes"
      >
        <line
          v-for="n in 6"
          :key="n"
          x1="0"
          x2="600"
          :y1="(n - 1) * 20"
          :y2="(n - 1) * 20"
          class="rule"
        />
        <path :d="path" />
      </svg>
      <p class="soft small">
        The last two minutes, {{ range[0] + calibration }} to {{ range[1] + calibration }} {{ unit }}.{{
          calibration ? '' : ' Not calibrated: set what 0 dBFS is in this chart’s settings.'
        }}
      </p>
    </template>
  </div>
</template>

<style scoped>
.table {
  overflow: auto;
  padding: 4px 12px 4px 54px;
  min-height: 0;
}
.numbers {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem 1.8rem;
}
svg {
  width: 100%;
  height: 110px;
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
