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
import { phrase } from '~/parts/phrase'

const listen = useListen()
const engine = useEngine()
const view = useView()
const corrections = useCorrections()
const nameOf = (length: (typeof blockLengths)[number]) =>
  length === 'multi'
    ? phrase('listen.severalLongForBass')
    : `${length} samples, from ${Math.round(engine.lowest(listen.sampleRate, length))} Hz`
const averagingChoices = averagings.map(a => ({ value: a.id, label: a.name }))
const uses: Partial<Record<number, string>> = { 48: phrase('listen.toInvestigate'), 12: phrase('listen.toDecide') }
const smoothingChoices = choicesOf(smoothings, n => phrase('listen.partOfOctave', { part: n, use: uses[n] ?? '' }))
const lengthChoices = computed(() => choicesOf(blockLengths, nameOf))
const estimators = choicesOfNames({
  H1: phrase('listen.h1TheMicrophonesNoise'),
  H2: phrase('listen.h2TheReferencesNoise'),
  Hg: phrase('listen.hgGeometricMeanOf'),
})
const overlaps = choicesOf([0, 0.5, 0.75, 0.875], o => `${o * 100} %`)
const windowChoices = choicesOf(Object.keys(windows) as (keyof typeof windows)[], id => phrase(windows[id].name))
const blocksNow = computed(() => {
  const lengths = engine.length === 'multi'
    ? phrase('listen.severalLengths')
    : phrase('listen.oneLength', { length: engine.length })
  return phrase('listen.block', { lengths, estimator: engine.estimator, name: phrase(windows[engine.window].name) })
})
</script>

<template>
  <div data-testid="listen-inspector">
    <FindingsPanel />
    <div class="section">
      <GeneratorPanel />
      <FoldSection
        id="interface"
        :title="phrase('listen.interfaceCorrection', {
          name: corrections.interfaceText ? corrections.interfaceText.name : phrase('common.none'),
        })"
      >
        <p class="small soft">
          {{ phrase('listen.joinAnOutputTo') }}
        </p>
        <ActionButton
          size="small"
          severity="secondary"
          :label="phrase('listen.storeThisAsInterface')"
          @click="listen.keepInterface()"
        />
        <ActionButton
          v-if="corrections.interfaceText"
          size="small"
          text
          :label="phrase('common.remove')"
          @click="corrections.interfaceText = null"
        />
      </FoldSection>
    </div>
    <MeasurementsPanel />
    <SoundFrom />
    <div class="section">
      <h2>{{ phrase('listen.averagingAndSmoothing') }}</h2>
      <ChoiceField
        v-model:value="engine.averagingId"
        :label="phrase('listen.averaging')"
        layout="beside"
        :options="averagingChoices"
      />
      <ChoiceField
        v-model:value="view.smoothing"
        :label="phrase('common.smoothing')"
        layout="beside"
        :options="smoothingChoices"
      />
      <div class="trim">
        <NumberField
          :label="phrase('listen.trimForViewingOnly')"
          :value="listen.trim"
          v-bind="quantities.level"
          @change="listen.trim = $event"
        /><ActionButton
          size="small"
          severity="secondary"
          :label="phrase('listen.normaliseToDb')"
          :title="phrase('listen.letsTheTraceSit')"
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
          :label="phrase('listen.blocks')"
          :name="phrase('listen.blocksTheirLength')"
          layout="beside"
          :options="lengthChoices"
        />
        <ChoiceField
          v-model:value="engine.estimator"
          :label="phrase('common.magnitude')"
          :name="phrase('listen.magnitudeFrom')"
          layout="beside"
          :options="estimators"
        />
        <ChoiceField
          v-model:value="engine.overlap"
          :label="phrase('listen.overlap')"
          layout="beside"
          :options="overlaps"
        />
        <ChoiceField
          v-model:value="engine.window"
          :label="phrase('common.window')"
          layout="beside"
          :options="windowChoices"
        />
        <CheckField
          v-model:value="engine.dropPoor"
          :label="phrase('listen.rejectDisturbedBlocks')"
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
