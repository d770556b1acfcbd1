<script setup lang="ts">
import { speedOfSound } from '~~/core/acoustics'
import { fractionalOctaves } from '~~/core/measure'
import { findingsOf, type Evidence, type Finding } from '~~/core/tune'

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
    curve: listen.blocks >= 8 ? listen.curve : null,
    delay: listen.delay,
    arrival: sounding && !listen.searching ? listen.arrival : null,
    echoes: sounding && impulse ? impulse.echoes : null,
    definition: impulse?.definition ?? null,
    modes: sounding && impulse && listen.blocks >= 8 ? impulse.modes : [],
    comb: sounding && impulse && listen.blocks >= 8 ? impulse.comb : null,
    spectrum: spectrum && { bands, microphone: spectrum.microphone, reference: spectrum.reference },
    others: others.value,
    unfed:
      view.cell && !site.fed(view.cell.source)
        ? site.sourceOf(view.cell.source)!.name
        : null,
    drift:
      listen.front && (listen.input === 'computer' || sets.clocks(listen.front))
        ? (listen.frameNow?.drift ?? null)
        : null,
    compensated: listen.frameNow?.compensated ?? false,
    speedOfSound: speedOfSound(site.plan.air.temperature),
  })
}, 500)
/** Puts the chart that shows it in second place, if it is not in view. */
function show(evidence: Evidence) {
  if (evidence === 'levels' || evidence === 'ribbon' || charts.shown.includes(evidence)) return
  if (charts.shown.length > 1) charts.set(1, evidence)
  else {
    charts.add()
    charts.set(1, evidence)
  }
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
