<script setup lang="ts">
import { standardGrid } from '~~/core/dsp'
import { niceRange, showDelay, showNumber } from '~~/core/units'
import { stripOf } from '~/charts/strip'
import { useAligning } from './aligning'
import { pairAxes, pairViews, useTrial } from './useTrial'
import { useSite } from '~/document/site'
import { choicesOfNames } from '~/parts/choices'
import CurveChart from '~/charts/CurveChart.vue'
import { phrase } from '~/parts/phrase'

/** Two sources at one position, and their sum while a delay is dragged: nothing is set until it is wished. */
const props = defineProps<{ band: [number, number] | null, reach: number }>()
const site = useSite()
const aligning = useAligning()
const trial = useTrial(toRef(props, 'band'))
const views = choicesOfNames(pairViews)
const axis = computed(() => pairAxes[trial.kind.value])
const places = computed(() => aligning.places.map((p, n) => ({ value: n, label: p.position.name })))
const low = computed(() => Math.max(20, (props.band?.[0] ?? 40) / 2))
const high = computed(() => Math.min(20_000, (props.band?.[1] ?? 10_000) * 2))
/** Magnitudes and delays lie anywhere: the axis follows the loudest, or what there is. */
const inView = computed(() => trial.traces.value.flatMap(t =>
  Array.from(t.values).filter((_, k) => standardGrid[k]! >= low.value && standardGrid[k]! <= high.value)))
const ends = computed(() => {
  const { min, max, step } = axis.value
  if (trial.kind.value === 'delay') return niceRange(inView.value) ?? { min, max, step }
  if (trial.kind.value !== 'magnitude' || !inView.value.length) return { min, max, step }
  const top = Math.ceil((Math.max(...inView.value) + 2) / 6) * 6
  return { min: top - (max - min), max: top, step }
})
const cursor = ref<number | null>(null)
const signed = (ms: number) => `${ms > 0 ? '+' : ''}${showDelay(ms / 1000)}`
const tried = computed(() => trial.delay.value !== 0 || trial.turned.value)
const set = async () => {
  const moved = aligning.move!
  const done = await aligning.perform([
    ...(trial.delay.value ? aligning.toAll(moved, { kind: 'delay', by: trial.delay.value }) : []),
    ...(trial.turned.value ? aligning.toAll(moved, { kind: 'invert' }) : []),
  ], phrase('align.trialSet', {
    name: moved.name,
    delay: signed(trial.delay.value * 1000),
    inverted: trial.turned.value ? phrase('common.polarityInverted2') : '',
  }))
  if (!done) return
  trial.delay.value = 0
  trial.turned.value = false
}
</script>

<template>
  <div
    v-if="trial.place.value"
    data-testid="trial"
  >
    <div class="wish">
      <ChoiceField
        v-model:value="trial.at.value"
        :label="phrase('align.at')"
        :name="phrase('align.positionTried')"
        :options="places"
      />
      <SegmentField
        v-model:value="trial.kind.value"
        class="kinds"
        :label="phrase('align.view')"
        layout="bare"
        :options="views"
      />
    </div>
    <div class="chart">
      <CurveChart
        :name="phrase('align.ofTwoSources', { view: pairViews[trial.kind.value] })"
        :unit="axis.unit"
        v-bind="ends"
        :traces="trial.traces.value"
        :xs="standardGrid"
        :x="{ kind: 'frequency', min: low, max: high }"
        :cursor="cursor"
        :strip="stripOf(trial.traces.value.map(t => t.name))"
        @cursor="cursor = $event"
      />
    </div>
    <div class="wish trying">
      <SliderField
        class="slide"
        :label="phrase('align.trialDelay')"
        layout="above"
        :value="trial.delay.value * 1000"
        :min="-reach * 1000"
        :max="reach * 1000"
        :step="0.02"
        :show="signed"
        @change="trial.delay.value = Number(($event / 1000).toFixed(6))"
      />
      <CheckField
        v-model:value="trial.turned.value"
        :label="phrase('align.invertPolarity')"
      />
      <ActionButton
        class="go"
        size="small"
        severity="secondary"
        :label="site.live ? phrase('align.applyTrial') : phrase('align.applyTrialToDraft')"
        :disabled="!tried"
        @click="set"
      />
    </div>
    <p
      v-if="trial.told.value"
      class="num small"
      data-testid="trial-told"
    >
      {{ phrase('align.summationLoss2') }} <b>{{ showNumber(-trial.told.value.score, 1) }} dB</b>
      <template
        v-for="(p, n) in aligning.places"
        :key="p.position.id"
      >
        · {{ p.position.name }} {{ showNumber(-trial.told.value.positions[n]!, 1) }}
      </template>
    </p>
  </div>
</template>

<style scoped>
.chart {
  display: grid;
  height: 230px;
}
.wish > .kinds,
.wish > .slide {
  width: auto;
  flex: 1 1 260px;
}
</style>
