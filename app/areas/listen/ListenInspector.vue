<script setup lang="ts">
import { windows } from '~~/core/dsp'
import { quantities } from '~~/core/units'
import { averagings, blockLengths, useEngine } from '~/sound/engine'
import { smoothings } from '~~/core/measure'
import { useView } from '~/document/view'
import { choicesOf, choicesOfNames } from '~/parts/choices'
import { useCorrections } from '~/sound/corrections'
import { useListen } from '~/sound/listen'
import SoundFrom from './SoundFrom.vue'
import ArrivalPanel from './ArrivalPanel.vue'
import FindingsPanel from './FindingsPanel.vue'
import GeneratorPanel from './GeneratorPanel.vue'
import MeasurementsPanel from './MeasurementsPanel.vue'
import SweepPanel from './SweepPanel.vue'

const listen = useListen()
const engine = useEngine()
const view = useView()
const corrections = useCorrections()
const nameOf = (length: (typeof blockLengths)[number]) =>
  length === 'multi'
    ? 'several: long for bass, short for treble'
    : `${length} samples, from ${Math.round(engine.lowest(listen.sampleRate, length))} Hz`
const averagingChoices = averagings.map(a => ({ value: a.id, label: a.name }))
const uses: Partial<Record<number, string>> = { 48: ', to investigate', 12: ', to decide' }
const smoothingChoices = choicesOf(smoothings, n => `1/${n} octave${uses[n] ?? ''}`)
const lengthChoices = computed(() => choicesOf(blockLengths, nameOf))
const estimators = choicesOfNames({
  H1: 'H1: the microphone’s noise falls out',
  H2: 'H2: the reference’s noise falls out',
  Hg: 'Hg: geometric mean of both, √(H1·H2)',
})
const overlaps = choicesOf([0, 0.5, 0.75, 0.875], o => `${o * 100} %`)
const windowChoices = choicesOf(Object.keys(windows) as (keyof typeof windows)[], id => windows[id].name)
const blocksNow = computed(() => {
  const lengths = engine.length === 'multi' ? 'lengths: several' : `length ${engine.length}`
  return `Block ${lengths}, ${engine.estimator}, ${windows[engine.window].name}`
})
</script>

<template>
  <div data-testid="listen-inspector">
    <FindingsPanel />
    <div class="section">
      <GeneratorPanel />
      <FoldSection
        id="interface"
        :title="`Interface correction: ${corrections.interfaceText ? corrections.interfaceText.name : 'none'}`"
      >
        <p class="small soft">
          Join an output to the microphone’s input by a cable and start the noise.
        </p>
        <ActionButton
          size="small"
          severity="secondary"
          label="Store this as interface correction"
          @click="listen.keepInterface()"
        />
        <ActionButton
          v-if="corrections.interfaceText"
          size="small"
          text
          label="Remove"
          @click="corrections.interfaceText = null"
        />
      </FoldSection>
    </div>
    <MeasurementsPanel />
    <SoundFrom />
    <div class="section">
      <h2>Averaging and smoothing</h2>
      <ChoiceField
        v-model:value="engine.averagingId"
        label="Averaging"
        layout="beside"
        :options="averagingChoices"
      />
      <ChoiceField
        v-model:value="view.smoothing"
        label="Smoothing"
        layout="beside"
        :options="smoothingChoices"
      />
      <div class="trim">
        <NumberField
          label="Trim, for viewing only"
          :value="listen.trim"
          v-bind="quantities.level"
          @change="listen.trim = $event"
        /><ActionButton
          size="small"
          severity="secondary"
          label="Normalise to 0 dB"
          title="Lets the trace sit at 0 dB between 500 Hz and 2 kHz"
          :disabled="!listen.curve"
          @click="listen.matchLevel()"
        />
      </div>
      <FoldSection
        id="blocks"
        :title="blocksNow"
      >
        <ChoiceField
          v-model:value="engine.length"
          label="Blocks"
          name="Blocks: their length"
          layout="beside"
          :options="lengthChoices"
        />
        <ChoiceField
          v-model:value="engine.estimator"
          label="Magnitude"
          name="Magnitude from"
          layout="beside"
          :options="estimators"
        />
        <ChoiceField
          v-model:value="engine.overlap"
          label="Overlap"
          layout="beside"
          :options="overlaps"
        />
        <ChoiceField
          v-model:value="engine.window"
          label="Window"
          layout="beside"
          :options="windowChoices"
        />
        <CheckField
          v-model:value="engine.dropPoor"
          label="Reject disturbed blocks"
        />
      </FoldSection>
    </div>
    <ArrivalPanel />
    <SweepPanel />
  </div>
</template>

<style scoped>
p {
  margin: 0;
}
.trim {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.5rem;
  align-items: end;
}
</style>
