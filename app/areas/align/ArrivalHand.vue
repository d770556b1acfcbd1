<script setup lang="ts">
import type { Take } from '~~/core/documents'
import { quantities, showDelay } from '~~/core/units'
import type { Trace } from '~/charts/traces'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import CurveChart from '~/charts/CurveChart.vue'
import { phrase } from '~/parts/phrase'

/** The impulse response of a take around its arrival: a press on it, or a number, says when its sound really came. */
const props = defineProps<{ take: Take }>()
const emit = defineEmits<{ close: [] }>()
const site = useSite()
const takes = useTakes()

const data = computed(() => takes.dataOf(props.take.id))
const found = computed(() => props.take.arrival ?? props.take.info.arrival)
/** Time that the impulse's own axis counts from. */
const zero = computed(() => props.take.timing.delay)
const before = 0.01
const behind = 0.04
const window = computed(() => {
  const impulse = data.value?.impulse
  if (!impulse) return null
  const { samples, sampleRate, start } = impulse
  const from = Math.max(0, Math.floor((-before - start) * sampleRate))
  const to = Math.min(samples.length, Math.ceil((behind - start) * sampleRate))
  if (to <= from) return null
  const most = samples.subarray(from, to).reduce((m, v) => Math.max(m, Math.abs(v)), 1e-12)
  const at = Float64Array.from({ length: to - from }, (_, k) => (start + (from + k) / sampleRate) * 1000)
  return { at, values: Float64Array.from(samples.subarray(from, to), v => v / most) }
})
const traces = computed<Trace[]>(() => window.value
  ? [{
      id: 'impulse', name: phrase('align.impulseResponse'), hue: site.sourceOf(props.take.source)?.hue ?? 0, dash: 0,
      predicted: false, strong: true, values: window.value.values, trusted: Array.from(window.value.at, () => true),
    }]
  : [])
const asFound = computed(() => {
  const { arrival } = props.take.info
  return arrival === null
    ? phrase('align.cannotBeTold')
    : phrase('align.backToAsFound', { arrival: showDelay(arrival) })
})
const cursor = ref<number | null>(null)
const pinned = computed(() => {
  const list = window.value?.at
  if (!list || found.value === null) return null
  const wanted = (found.value - zero.value) * 1000
  const k = list.findIndex(t => t >= wanted)
  return k < 0 ? null : k
})
const set = (arrival: number | undefined) =>
  site.change([{ document: `take/${props.take.id}`, path: '/arrival', new: arrival }], { live: false })
function pin(k: number | null) {
  if (k !== null && window.value) void set(Number((zero.value + window.value.at[k]! / 1000).toFixed(7)))
}
</script>

<template>
  <div
    class="hand"
    data-testid="arrival-hand"
  >
    <div class="row apart">
      <h3>{{ take.name }}</h3>
      <ActionButton
        size="small"
        text
        :label="phrase('align.close')"
        @click="emit('close')"
      />
    </div>
    <p
      v-if="!window"
      class="soft"
    >
      {{ phrase('align.thisTakeHoldsNo') }}
    </p>
    <div
      v-else
      class="chart"
    >
      <CurveChart
        :name="phrase('common.impulseResponse')"
        :unit="phrase('align.partOfItsLargest')"
        :min="-1"
        :max="1"
        :step="0.5"
        :traces="traces"
        :xs="window.at"
        :x="{ kind: 'time', min: -before * 1000, max: behind * 1000 }"
        :cursor="cursor"
        :pinned="pinned"
        :strip="10"
        @cursor="cursor = $event"
        @pin="pin"
      />
    </div>
    <div class="wish">
      <NumberField
        :label="phrase('align.arrival')"
        :name="phrase('align.arrivalByHand')"
        :value="found ?? zero"
        v-bind="quantities.delay"
        @change="set($event)"
      />
      <ActionButton
        v-if="take.arrival !== undefined"
        class="go"
        size="small"
        severity="secondary"
        :label="asFound"
        @click="set(undefined)"
      />
    </div>
    <p class="soft small">
      {{ phrase('align.msOnTheAxis', { zero: showDelay(zero) }) }}
    </p>
  </div>
</template>

<style scoped>
.chart {
  display: grid;
  height: 190px;
}
.hand {
  border: 1px solid var(--rule);
  border-radius: 3px;
  padding: 0.4rem 0.6rem;
  margin-top: 0.6rem;
}
</style>
