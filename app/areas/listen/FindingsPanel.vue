<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { speedOfSound } from '~~/core/acoustics'
import { fractionalOctaves } from '~~/core/measure'
import { findingsOf, type Evidence, type Finding } from '~~/core/tune'
import { useCharts } from '~/charts/useCharts'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'

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
let noiseSince = 0
watch(
  () => listen.noise,
  () => {
    noiseSince = performance.now()
  },
)
/** Looks a second apart at what sounds when nothing of ours does; the lowest of each band goes on all the time. */
const looksNeeded = 5
let looks: Float32Array[] = []
let lastLook = 0
let heardLast: string | undefined
let steady: Float32Array | null = null
function hearSilence(sounding: boolean, microphone: Float32Array | null): Float32Array | null {
  const heard = listen.front?.microphone
  if (heard !== heardLast) {
    looks = []
    steady = null
  }
  heardLast = heard
  if (sounding) looks = []
  // the room has died away
  else if (microphone && performance.now() - Math.max(lastLook, noiseSince + 2000) > 1000) {
    lastLook = performance.now()
    looks = [...looks.slice(1 - looksNeeded), microphone]
    if (looks.length === looksNeeded)
      steady = microphone.map((_, k) => Math.min(...looks.map(l => l[k]!)))
  }
  return steady
}
/** Whether the rig says anything of what is measured. */
const isJudged = () => listen.front !== null && sets.feedOf(listen.front) !== null
/** When the picked source should arrive where the front measurement stands. */
function expected() {
  const at = listen.front && sets.placeOf(listen.front)
  return view.cell && at && !listen.assumed ? listen.arrivalByPlan(view.cell.source, at.id) : null
}
useIntervalFn(() => {
  // while the noise is only rising, silence says nothing yet
  if (!listen.running || (listen.searching && listen.noise && performance.now() - noiseSince < 4000)) {
    found.value = []
    return
  }
  /** Kovrin's own signal, or any other that is loud enough to measure with. */
  const sounding = listen.noise || listen.levels.reference.rms > -60
  const { impulse, spectrum } = listen
  found.value = findingsOf({
    ...listen.levels,
    sounding,
    curve: listen.blocks >= 8 && listen.frameNow?.complete ? listen.curve : null,
    delay: listen.delay,
    arrival: sounding && !listen.searching ? listen.arrival : null,
    expected: expected(),
    room: sounding && impulse && listen.blocks >= 8 ? impulse.room : null,
    spectrum: spectrum && { bands, microphone: spectrum.microphone },
    silence: hearSilence(sounding, spectrum?.microphone ?? null),
    hum: listen.hum,
    flattened: listen.isFlattened(),
    others: isJudged() ? others.value : [],
    unfed:
      view.cell && isJudged() && !site.fed(view.cell.source)
        ? site.sourceOf(view.cell.source)!.name
        : null,
    drift:
      listen.front && (!sets.facts.oneClock || sets.clocks(listen.front))
        ? (listen.frameNow?.drift ?? null)
        : null,
    compensated: listen.frameNow?.compensated ?? false,
    clocks: !!listen.front && sets.clocks(listen.front),
    speedOfSound: speedOfSound(site.plan.air),
  })
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
    aria-label="Findings"
    data-testid="findings"
  >
    <h2>Findings</h2>
    <button
      v-for="f in found.slice(0, 4)"
      :key="f.id"
      class="plain sentence"
      :class="{ error: f.weight === 'wrong', warn: f.weight === 'mind' }"
      :data-finding="f.id"
      title="Show the evidence"
      @click="show(f.evidence)"
    >
      {{ f.text }}
    </button>
  </div>
</template>

<style scoped>
.sentence {
  text-align: left;
  font-size: 0.9rem;
}
</style>
