<script setup lang="ts">
import { standardGrid, multiply, divide } from '~~/core/dsp'
import { fewBlocks, smooth } from '~~/core/measure'
import { asIfSounding, sourceResponse, staleness, type PathSettings } from '~~/core/rig'
import { showFrequency, showLevel, showNumber } from '~~/core/units'
import { coherenceTrace, magnitudeTrace, phaseTrace, type Drawn } from './traces'

const site = useSite(), view = useView(), listen = useListen(), takes = useTakes()
const cursor = ref<number | null>(null)

const source = computed(() => site.site?.sources.find(s => s.id === view.cell?.source))
const position = computed(() => site.site?.positions.find(p => p.id === view.cell?.position))
const title = computed(() => source.value && position.value ? `${source.value.name} at ${position.value.name}` : 'No cell picked')

const smoothed = computed(() => listen.curve && smooth(listen.curve, view.smoothing))

/** Draft path over the path in the devices, when they differ for the picked source. */
const ahead = computed(() => {
  if (!source.value) return null
  const feed = site.site!.plan.feed, outputs = site.outputsOf(source.value.id)
  const held: PathSettings = Object.fromEntries(Object.entries(site.heldRig.devices).map(([id, d]) => [id, d.settings]))
  if (!staleness(site.draftRig, held, feed, outputs).length) return null
  return divide(sourceResponse(asIfSounding(site.draftRig, held), feed, outputs, standardGrid), sourceResponse(asIfSounding(site.heldRig, held), feed, outputs, standardGrid))
})

const drawn = computed<Drawn[]>(() => {
  if (!source.value || !position.value) return []
  const look = { hue: source.value.hue, dash: position.value.dash }
  const list: Drawn[] = []
  for (const { take, curve } of takes.measured) list.push({ ...look, id: take.id, name: `take ${take.name.split(' ').pop()}`, predicted: false, strong: false, curve })
  for (const { take, curve } of takes.predicted) list.push({ ...look, id: `${take.id}-p`, name: `take ${take.name.split(' ').pop()} predicted`, predicted: true, strong: !smoothed.value, curve })
  if (smoothed.value) {
    list.push({ ...look, id: 'live', name: `${source.value.name} now`, predicted: false, strong: true, curve: smoothed.value, young: listen.blocks < fewBlocks })
    if (ahead.value && listen.curve) list.push({ ...look, id: 'ahead', name: 'draft predicted', predicted: true, strong: true, curve: smooth(multiply(listen.curve, ahead.value), view.smoothing), young: listen.blocks < fewBlocks })
  }
  return list
})
const magnitudes = computed(() => drawn.value.map(magnitudeTrace))
const phases = computed(() => drawn.value.filter(d => d.id === 'live' || d.id === 'ahead' || !smoothed.value).map(phaseTrace))
const coherences = computed(() => drawn.value.filter(d => d.curve.coherence && !d.predicted).map(coherenceTrace))

/** A 42 dB window that follows the traces in steps of 6 dB. */
const top = ref(12)
watch(magnitudes, (list) => {
  const peak = Math.max(...list.flatMap(t => Array.from(t.values).filter((v, k) => Number.isFinite(v) && standardGrid[k]! > 40 && standardGrid[k]! < 16_000)))
  if (Number.isFinite(peak) && (peak > top.value - 1 || peak < top.value - 15)) top.value = Math.ceil((peak + 4) / 6) * 6
})

const readout = computed(() => {
  const k = cursor.value, d = drawn.value.find(t => t.id === 'live') ?? drawn.value[0]
  if (k === null || !d) return null
  const { curve } = d
  return { name: d.name, f: showFrequency(standardGrid[k]!), level: showLevel(magnitudeTrace(d).values[k]!), angle: `${showNumber(Math.atan2(curve.im[k]!, curve.re[k]!) * 180 / Math.PI, 0)}°`, coherence: curve.coherence ? showNumber(curve.coherence[k]!, 2) : null }
})

const hint = computed(() => {
  if (!view.cell) return 'Pick a cell in the ledger: a loudspeaker, and the place where the microphone stands.'
  if (drawn.value.length) return null
  if (!listen.running) return 'Start the noise to measure. It begins quietly and rises to the level you set.'
  if (listen.stalled) return 'No sound is coming from the input. Is the device still there?'
  if (!Number.isFinite(listen.levels.reference.rms) || listen.levels.reference.rms < -75) return 'The reference is silent: start the noise.'
  if (listen.searching) return 'Looking for the arrival of the sound. If this lasts, the loudspeaker is silent or the microphone does not hear it: follow the path ribbon below.'
  return 'The first trace is on its way.'
})
</script>

<template>
  <section class="plate" aria-label="Plate">
    <header>
      <h2>{{ title }}</h2>
      <PlateNumbers />
    </header>
    <p class="readout small" :class="readout ? 'num' : 'soft'" data-testid="readout">
      <template v-if="readout"><b>{{ readout.f }}</b> {{ readout.level }} {{ readout.angle }}<template v-if="readout.coherence"> coherence {{ readout.coherence }}</template> · {{ readout.name }}</template>
      <template v-else>Point at the chart to read it. Pale line: coherence under 0.6, do not trust it.</template>
    </p>
    <div class="charts">
      <CurveChart name="Magnitude" unit="dB, microphone over reference" :min="top - 42" :max="top" :step="6" :traces="magnitudes" :frequencies="standardGrid" :cursor="cursor" @cursor="cursor = $event" />
      <CurveChart name="Phase" unit="degrees" :min="-180" :max="180" :step="90" :traces="phases" :frequencies="standardGrid" :cursor="cursor" @cursor="cursor = $event" />
      <CurveChart name="Coherence" unit="0 to 1 · over frequency in Hz" :min="0" :max="1" :step="0.5" :traces="coherences" :frequencies="standardGrid" :cursor="cursor" @cursor="cursor = $event" />
      <p v-if="hint" class="hint">{{ hint }}</p>
    </div>
  </section>
</template>

<style scoped>
.plate { display: grid; grid-template-rows: auto auto 1fr; min-height: 0; min-width: 0; padding: 0.6rem 0.4rem 0.4rem 0.8rem; }
header { display: flex; justify-content: space-between; align-items: center; gap: 1rem; padding-right: 0.6rem; }
.readout { margin: 0.2rem 0; min-height: 1.3em; }
.charts { display: grid; grid-template-rows: 5fr 3fr 2fr; min-height: 0; gap: 0.15rem; position: relative; }
.hint { position: absolute; left: 60px; right: 140px; top: 22%; margin: 0; text-align: center; font-size: 1.1rem; color: var(--ink-soft); text-wrap: balance; }
</style>
