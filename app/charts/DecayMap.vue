<script setup lang="ts">
import { showFrequency, showNumber } from '~~/core/units'
import type { Drawn } from './traces'
import { useCharts } from './useCharts'
import { useFigures } from './useFigures'
import DepthChart from './DepthChart.vue'
import { phrase } from '~/parts/phrase'

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
    return phrase('charts.belowHzEverythingHas', { limit: showNumber(charts.settings.limit * 1000, 0) })
  const worst = late.reduce((a, b) => (b.t! > a.t! ? b : a))
  return phrase(
    'charts.needsMsToFall',
    { frequency: showFrequency(Math.round(worst.f)), time: showNumber(worst.t! * 1000, 0) },
  )
})
</script>

<template>
  <div
    v-if="answer?.map"
    class="map"
  >
    <DepthChart
      :name="phrase('charts.decayOverFrequency')"
      :unit="phrase('charts.msFromTheArrival')"
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
      :title="phrase('charts.fullColourLoudestNo')"
    >
      {{ rings }}
    </p>
  </div>
  <p
    v-else
    class="soft none"
  >
    {{ drawn ? phrase('charts.computing') : phrase('charts.nothingToComputeYet') }}
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
