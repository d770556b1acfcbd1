<script setup lang="ts">
import { showFrequency, showNumber } from '~~/core/units'
import type { Drawn } from './traces'
import { useCharts } from './useCharts'
import { useFigures } from './useFigures'
import DepthChart from './DepthChart.vue'

/** Decay over frequency as a map, of one impulse response. */
const props = defineProps<{ drawn: Drawn | null }>()
const charts = useCharts()
const answer = useFigures(() => props.drawn, () => {
  const { mapLength: length, mapWindow: window } = charts.settings
  return { kind: 'map', low: 20, high: 18_000, length, window }
})
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
    v-if="answer?.map"
    class="map"
  >
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
      class="small"
      data-testid="rings"
      title="Full colour: loudest; no colour: 40 dB under it"
    >
      {{ rings }}
    </p>
  </div>
  <p
    v-else
    class="soft none"
  >
    {{ drawn ? 'Computing …' : 'Nothing to compute yet: measure, or show a take that has an impulse response.' }}
  </p>
</template>

<style scoped>
.map {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  min-height: 0;
}
p {
  margin: 0 0 0 54px;
}
.none {
  padding-top: 0.6rem;
}
</style>
