<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { speedOfSound } from '~~/core/acoustics'
import { fractionalOctaves } from '~~/core/measure'
import { findingsOf, hearSilence, isSounding, noSilence, observe, type Evidence, type Finding } from '~~/core/tune'
import { wordsOf } from '~~/core/words'
import { useCharts } from '~/charts/useCharts'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import { phrase } from '~/parts/phrase'

/** What the running measurement says of itself: sentences with their evidence one click away. */
const site = useSite()
const view = useView()
const listen = useListen()
const charts = useCharts()
const sets = useSets()
const bands = fractionalOctaves(24, 16, 20_000)
const others = computed(() =>
  site.sources
    .filter(s => s.id !== view.cell?.source)
    .flatMap((s) => {
      const time = site.fed(s.id) ? listen.arrivalByPlan(s.id) : null
      return time === null ? [] : [{ name: s.name, time: time - listen.delay }]
    }),
)
const found = shallowRef<Finding[]>([])
const seconds = () => performance.now() / 1000
let noiseSince = 0
watch(
  () => listen.noise,
  () => {
    noiseSince = seconds()
  },
)
let silence = noSilence
/** When the picked source should arrive where the front measurement stands. */
function expected() {
  const at = listen.front && sets.placeOf(listen.front)
  return view.cell && at ? listen.arrivalByPlan(view.cell.source, at.id) : null
}
/** What the rig says of what sounds; null where it says nothing of what is measured. */
function rig() {
  if (!listen.front || sets.feedOf(listen.front) === null) return null
  const unfed = view.cell && !site.fed(view.cell.source) ? site.sourceOf(view.cell.source)!.name : null
  return { others: others.value, unfed }
}
useIntervalFn(() => {
  const { front, frameNow, spectrum, levels } = listen
  const sounding = isSounding(listen.noise, levels.reference)
  // what was heard last says nothing of now when nothing listens
  const heard = listen.running ? spectrum?.microphone ?? null : null
  silence = hearSilence(silence, { microphone: front?.microphone, sounding, heard, at: seconds(), noiseSince })
  const seen = observe({
    ...levels,
    running: listen.running,
    searching: listen.searching,
    noise: listen.noise,
    noiseFor: seconds() - noiseSince,
    blocks: listen.blocks,
    complete: frameNow?.complete ?? false,
    curve: listen.curve,
    delay: listen.delay,
    arrival: listen.arrival,
    expected: expected(),
    assumed: listen.assumed,
    room: listen.impulse?.room ?? null,
    spectrum: spectrum && { bands, microphone: spectrum.microphone },
    silence: silence.steady,
    hum: listen.hum,
    flattened: listen.isFlattened(),
    rig: rig(),
    drift: frameNow?.drift ?? null,
    mayDrift: !!front && (!sets.facts.oneClock || sets.clocks(front)),
    compensated: frameNow?.compensated ?? false,
    clocks: !!front && sets.clocks(front),
    speedOfSound: speedOfSound(site.plan.air),
  })
  found.value = seen ? findingsOf(seen) : []
}, 500)
/** Puts the chart that shows it in second place, if it is not in view. */
function show(evidence: Evidence) {
  if (evidence !== 'levels' && evidence !== 'ribbon') charts.show(evidence)
}
</script>

<template>
  <div
    v-if="found.length"
    class="section"
    aria-live="polite"
    :aria-label="phrase('listen.findings')"
    data-testid="findings"
  >
    <h2>{{ phrase('listen.findings') }}</h2>
    <button
      v-for="f in found.slice(0, 4)"
      :key="f.id"
      class="plain sentence"
      :class="{ error: f.weight === 'wrong', warn: f.weight === 'mind' }"
      :data-finding="f.id"
      :title="phrase('listen.showTheEvidence')"
      @click="show(f.evidence)"
    >
      {{ wordsOf(f.told) }}
    </button>
  </div>
</template>

<style scoped>
.sentence {
  text-align: left;
  font-size: 0.9rem;
}
</style>
