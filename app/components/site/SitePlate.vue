<script setup lang="ts">
import { airLoss, octaveBands, speedOfSound } from '~~/core/acoustics'
import { roomDecay, type Place } from '~~/core/rig'
import { showNumber } from '~~/core/units'
import type { CoverageAnswer, CoverageRequest } from '~/workers/coverage.worker'

const site = useSite(), view = useView()
const tabs = [{ id: 'plan', name: 'Plan' }, { id: 'table', name: 'Distances' }] as const
const tab = ref<'plan' | 'table'>('plan')
const band = ref(2000)
const plan = computed(() => site.site!.plan)
const c = computed(() => speedOfSound(plan.value.air.temperature))
/** What the change of air until the show does to 100 ms of delay and to the top octave. */
const later = computed(() => {
  const time = 100 * (c.value / speedOfSound(plan.value.airLater.temperature) - 1), top = (airLoss(8000, plan.value.airLater) - airLoss(8000, plan.value.air)) * 10
  return `${showNumber(time, 2)} ms in 100, ${showNumber(-top, 2)} dB at 8 kHz per 10 m`
})
const decay = computed(() => roomDecay(plan.value))

const map = shallowRef<CoverageAnswer | null>(null)
const worker = new Worker(new URL('../../workers/coverage.worker.ts', import.meta.url), { type: 'module' })
worker.onmessage = (event: MessageEvent<CoverageAnswer>) => { map.value = event.data }
onBeforeUnmount(() => worker.terminate())
const ear = 1.2
watch(() => [plan.value, site.site!.sources, band.value], () => {
  const radiators = site.site!.sources.flatMap(s => s.elements).map(({ model, place, aim }) => ({ model, place, aim }))
  worker.postMessage(JSON.parse(JSON.stringify({ size: plan.value.room.size, radiators, air: plan.value.air, frequency: band.value, height: ear, step: Math.max(0.2, plan.value.room.size.x / 120) })) satisfies CoverageRequest)
}, { immediate: true })
const range = computed<[number, number]>(() => {
  const top = map.value ? Math.max(...map.value.levels) : 0
  return [top - 30, top - 6]
})

function move(what: 'source' | 'position', id: string, element: number, place: Place) {
  if (what === 'position') {
    const old = site.site!.positions.find(p => p.id === id)!
    void site.editPlan('position', id, old, { ...old, place })
  }
  else {
    const old = site.site!.sources.find(s => s.id === id)!
    void site.editPlan('source', id, old, { ...old, elements: old.elements.map((e, k) => k === element ? { ...e, place } : e) })
  }
}
</script>

<template>
  <section class="plate site" aria-label="Plate">
    <header class="row apart">
      <h2>{{ site.site!.name }}</h2>
      <div class="row">
        <button v-for="t in tabs" :key="t.id" class="plain tab" :class="{ on: tab === t.id }" :aria-pressed="tab === t.id" @click="tab = t.id">{{ t.name }}</button>
      </div>
    </header>
    <dl>
      <div><dt>Room</dt><dd class="num">{{ plan.room.size.x }} × {{ plan.room.size.y }} × {{ plan.room.size.z }} m</dd></div>
      <div><dt>Speed of sound</dt><dd class="num">{{ showNumber(c, 1) }} m/s</dd></div>
      <div><dt>Air loss at 8 kHz</dt><dd class="num">{{ showNumber(airLoss(8000, plan.air) * 10, 2) }} dB per 10 m</dd></div>
      <div><dt>By show time</dt><dd class="num" data-testid="later">{{ later }}</dd></div>
      <div><dt>Decay by Eyring, 125 Hz · 1 kHz · 4 kHz</dt><dd class="num">{{ [1, 4, 6].map(o => showNumber(decay[o]!, 2)).join(' · ') }} s</dd></div>
    </dl>
    <template v-if="tab === 'plan'">
      <div class="views">
        <PlanCanvas side="above" :size="plan.room.size" :sources="site.site!.sources" :positions="site.site!.positions" :picked="view.thing" :map="map" :map-range="range" @pick="view.thing = $event" @move="move" />
        <PlanCanvas side="beside" :size="plan.room.size" :sources="site.site!.sources" :positions="site.site!.positions" :picked="view.thing" :map="null" :map-range="range" @pick="view.thing = $event" @move="move" />
      </div>
      <div class="row small">
        <label class="row">Direct level at {{ ear }} m, octave of <select v-model.number="band" aria-label="Octave of the level map"><option v-for="f in octaveBands" :key="f" :value="f">{{ f }} Hz</option></select></label>
        <span v-if="map && site.site!.sources.length" class="soft" data-testid="spread">full colour within 6 dB of the loudest spot, then one step every 4 dB; 90 % of the floor lies within {{ showNumber(map.spread, 1) }} dB</span>
        <span v-else class="soft">Add a source to see how evenly it covers the floor.</span>
      </div>
    </template>
    <DistanceTable v-else />
  </section>
</template>

<style scoped>
.site { display: grid; grid-template-rows: auto auto minmax(0, 1fr) auto; gap: 0.5rem; padding: 0.6rem 0.9rem; min-height: 0; overflow: hidden; }
dl { display: flex; flex-wrap: wrap; gap: 0.2rem 1.3rem; margin: 0; }
dt { color: var(--ink-soft); font-size: 0.84rem; }
dd { margin: 0; font-size: 0.98rem; font-weight: 600; }
.views { display: grid; grid-template-rows: 3fr 2fr; gap: 0.4rem; min-height: 0; }
.tab { padding: 0.35rem 0.9rem; border: 1px solid var(--rule-strong); min-height: 34px; }
.tab.on { background: var(--accent); color: var(--accent-ink); }
select { width: 92px; }
</style>
