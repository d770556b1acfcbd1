<script setup lang="ts">
import { message } from '~~/core/words'
import { earlyOf, matchPhases, playsIn, showAct, type Act, type PhaseMatch } from '~~/core/tune'
import { nextOrder, type Group } from '~~/core/documents'
import { quantities, showDelay, showNumber } from '~~/core/units'
import type { Trace } from '~/charts/traces'
import { stripOf } from '~/charts/strip'
import { useAligning } from './aligning'
import { useSite } from '~/document/site'
import { choicesOf } from '~/parts/choices'
import { useNotices } from '~/parts/notices'
import CurveChart from '~/charts/CurveChart.vue'
import { phrase } from '~/parts/phrase'

/** One kind of loudspeaker made to turn its phase like another: delay, polarity, all-passes, kept as a group. */
const site = useSite()
const aligning = useAligning()
const notices = useNotices()
const most = ref(2)
const own = reactive<{ low: number | null, high: number | null }>({ low: null, high: null })
/** Where both play at all: for phases it does not matter which is louder. */
const shared = computed<[number, number] | null>(() => {
  const [a, b] = [aligning.places.map(p => p.r), aligning.places.map(p => p.m)].map(playsIn)
  return a && b ? [Math.max(a[0], b[0]), Math.min(a[1], b[1])] : null
})
/** Where they are compared: one position, as a mean of several has no phase that either of them has. */
const at = ref<string | null>(null)
const place = computed(() => aligning.places.find(p => p.position.id === at.value) ?? aligning.places[0] ?? null)
const places = computed(() => (place.value
  ? [{ reference: earlyOf(place.value.r), move: earlyOf(place.value.m), apart: null }]
  : []))
/** With more than this left, nothing was made alike. */
const hopeless = 60
const band = computed<[number, number] | null>(() => {
  const found = shared.value
  const [low, high] = [own.low ?? found?.[0], own.high ?? found?.[1]]
  return low !== undefined && high !== undefined && high > low ? [low, high] : null
})
const found = shallowRef<PhaseMatch | null>(null)
watch([places, band, most], () => {
  found.value = null
})
function look() {
  try {
    found.value = matchPhases({
      places: places.value,
      weights: [1],
      band: band.value!,
      sampleRate: 96_000,
      most: most.value,
      delay: [-0.03, 0.03],
    })
  }
  catch (error) { notices.fail(error) }
}
const cursor = ref<number | null>(null)
const traces = computed<Trace[]>(() => found.value
  ? [{
      id: 'left', name: phrase('align.whatIsLeft'), hue: aligning.move?.hue ?? 0, dash: 0,
      predicted: true, strong: true, values: found.value.left, trusted: Array.from(found.value.left, () => true),
    }]
  : [])
const acts = computed<Act[]>(() => found.value
  ? [
      ...(found.value.delay ? [{ kind: 'delay', by: found.value.delay } satisfies Act] : []),
      ...(found.value.polarity < 0 ? [{ kind: 'invert' } satisfies Act] : []),
      ...found.value.filters.map(f => ({ kind: 'all-pass', ...f }) satisfies Act),
    ]
  : [])
const set = () => aligning.perform(acts.value.flatMap(act => aligning.toAll(aligning.move!, act)))
/** Kept as a group of the moved source's outputs: the piece for this pair of kinds, with its filters. */
async function keep() {
  const { delay, polarity, filters } = found.value!
  const [a, b] = [aligning.reference!, aligning.move!]
  const id = `alike-${crypto.randomUUID().slice(0, 8)}`
  const made: Group = {
    id,
    name: phrase('align.like', { name: b.name, other: a.name }).slice(0, 80),
    order: nextOrder(site.groups),
    members: [],
    layer: {
      gain: 0,
      delay: Math.max(0, delay),
      polarity: polarity < 0 ? 'inverted' : 'normal',
      eq: filters.map(f => ({ type: 'all-pass', frequency: f.frequency, gain: 0, q: f.q })),
    },
  }
  const rest = delay < 0 ? phrase('align.itsDelayWouldBe', { delay: showDelay(delay), name: a.name }) : ''
  if (await site.change([{ document: `group/${id}`, path: '', new: made }], { live: false }))
    notices.say('info', message('group.saved', { group: made.name, more: rest }))
}
</script>

<template>
  <p
    v-if="!aligning.reference || !aligning.move || !aligning.places.length"
    class="soft"
  >
    {{ phrase('align.measureTwoSourcesAlone') }}
  </p>
  <template v-else>
    <h2>{{ phrase('align.matchedTo', { name: aligning.move.name, other: aligning.reference.name }) }}</h2>
    <div class="wish">
      <ChoiceField
        :label="phrase('align.at')"
        :name="phrase('align.comparedAt')"
        :value="place?.position.id ?? ''"
        :options="aligning.places.map(p => ({ value: p.position.id, label: p.position.name }))"
        @change="at = $event"
      />
      <NumberField
        v-if="band"
        :label="phrase('common.from')"
        :name="phrase('align.phaseMatchingFrom')"
        :value="band[0]"
        v-bind="quantities.frequency"
        @change="own.low = $event"
      />
      <NumberField
        v-if="band"
        :label="phrase('common.to')"
        :name="phrase('align.phaseMatchingTo')"
        :value="band[1]"
        v-bind="quantities.frequency"
        @change="own.high = $event"
      />
      <ChoiceField
        v-model:value="most"
        :label="phrase('align.allPassesAtMost')"
        :options="choicesOf([0, 1, 2, 3], n => (n ? `${n}` : 'none'))"
      />
      <ActionButton
        class="go"
        size="small"
        :label="phrase('align.findAllPassesFor')"
        :disabled="!band"
        @click="look"
      />
    </div>
    <p
      v-if="!band"
      class="sentence warn"
    >
      {{ phrase('align.noCommonBandType') }}
    </p>
    <template v-if="found">
      <p data-testid="alike">
        {{
          phrase('align.phaseDifferenceRmsNow', {
            before: showNumber(found.before, 0),
            delayed: showNumber(found.delayed, 0),
          })
        }} <b>{{ phrase('align.withAll', { after: showNumber(found.after, 0) }) }}</b>{{
          phrase('align.ofTheBandLies', {
            percent: showNumber(100 * found.within, 0),
            worst: showNumber(found.worst, 0),
          })
        }}
      </p>
      <p class="num">
        {{ acts.map(showAct).join(', ') || phrase('align.nothingToBeSet') }}
      </p>
      <div class="chart">
        <CurveChart
          :name="phrase('align.phaseThatIsLeft')"
          :unit="phrase('align.degrees')"
          :min="-180"
          :max="180"
          :step="45"
          :traces="traces"
          :xs="found.frequencies"
          :x="{ kind: 'frequency', min: band![0], max: band![1] }"
          :cursor="cursor"
          :strip="stripOf([phrase('align.whatIsLeft')])"
          @cursor="cursor = $event"
        />
      </div>
      <p
        v-if="found.after > hopeless"
        class="sentence warn"
      >
        {{ phrase('align.noMatchFoundCompare') }}
      </p>
      <div class="row">
        <ActionButton
          size="small"
          :label="site.live ? phrase('common.apply') : phrase('align.applyToDraft')"
          :disabled="!acts.length || found.after > hopeless"
          @click="set"
        />
        <ActionButton
          size="small"
          severity="secondary"
          :label="phrase('align.saveAsGroupFor')"
          :disabled="found.after > hopeless"
          @click="keep"
        />
      </div>
    </template>
  </template>
</template>

<style scoped>
.chart {
  display: grid;
  height: 210px;
}
</style>
