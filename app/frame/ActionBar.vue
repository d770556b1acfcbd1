<script setup lang="ts">
import { signalNames } from '~~/core/dsp'
import { useView } from '~/document/view'
import { useKeys } from '~/parts/keys'
import { useInputs } from '~/sound/inputs'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import { useSweep } from '~/sound/sweepStore'
import { phrase } from '~/parts/phrase'

/** What is done most, above the plate in every area: the noise, Find, Take, Sweep, and what is running. */
const view = useView()
const listen = useListen()
const keys = useKeys()
const sweep = useSweep()
const sets = useSets()
const inputs = useInputs()

const busy = computed(() => sweep.state !== 'idle')
const minus = (n: number) => `${n}`.replace('-', '−')
const asPeak = computed(() => listen.signal.kind === 'clicks' || listen.signal.kind === 'pulses')
/** Which microphones are heard; what stands behind the average is with its numbers. */
const running = computed(() => {
  const { front } = listen
  if (!listen.running || !front) return phrase('frame.nothingMeasured')
  const others = sets.able.length - 1
  const heard = `${inputs.labelOf(front.microphone)}${others ? ` and ${others} more` : ''}`
  return listen.searching ? phrase('frame.lookingForTheArrival', { heard }) : heard
})
const why = computed(() => {
  if (!view.cell) return phrase('frame.pickACellIn')
  if (!listen.curve) return phrase('frame.nothingMeasuredYet')
  return phrase('frame.keepThisMeasurementCurve', { sign: keys.sign('take') })
})
</script>

<template>
  <section
    class="actions"
    :aria-label="phrase('frame.measure')"
  >
    <ActionButton
      size="small"
      :label="listen.noise ? phrase('frame.stopNoise') : phrase('frame.startNoise')"
      :severity="listen.noise ? 'secondary' : undefined"
      :title="(!listen.noise && listen.taken) || phrase('frame.onOrOff', {
        signal: phrase(signalNames[listen.signal.kind]),
        sign: keys.sign('noise'),
      })"
      :disabled="!listen.noise && listen.taken !== null"
      data-testid="noise"
      @click="listen.turnNoise(!listen.noise)"
    />
    <SliderField
      v-model:value="listen.noiseLevel"
      class="level"
      :label="phrase('common.level')"
      :name="phrase('frame.noiseLevelInDbfs')"
      :title="phrase('frame.levelOfTheNoise')"
      :min="-50"
      :max="-6"
      :show="v => `${minus(v)} dBFS${asPeak ? ' peak' : ''}`"
    />
    <span class="gap" />
    <ActionButton
      size="small"
      :label="phrase('frame.take')"
      :severity="listen.curve ? undefined : 'secondary'"
      :loading="listen.taking"
      :disabled="!listen.curve"
      :title="why"
      data-testid="take"
      @click="listen.take()"
    />
    <ActionButton
      v-if="busy"
      size="small"
      severity="danger"
      :label="phrase('frame.stopSweep')"
      @click="sweep.stop()"
    />
    <ActionButton
      v-else
      size="small"
      severity="secondary"
      :label="phrase('common.sweep')"
      :title="listen.taken ?? phrase('frame.sweepThisCellResponse', { sign: keys.sign('sweep') })"
      :disabled="listen.taken !== null"
      data-testid="sweep-one"
      @click="sweep.one()"
    />
    <ActionButton
      size="small"
      severity="secondary"
      :label="phrase('frame.findArrival')"
      :aria-label="phrase('frame.findArrival')"
      :title="phrase('frame.findTheArrivalAgain', { sign: keys.sign('find') })"
      :disabled="!listen.running"
      @click="listen.find()"
    />
    <ActionButton
      size="small"
      severity="secondary"
      :label="phrase('frame.reset')"
      :aria-label="phrase('frame.resetAverage')"
      :title="phrase('frame.resetTheAverage', { sign: keys.sign('restart') })"
      :disabled="!listen.running"
      @click="listen.restart()"
    />
    <progress
      v-if="busy"
      :value="sweep.state === 'sweeping' ? sweep.done : 0"
      max="1"
      :aria-label="phrase('common.sweep')"
    />
    <span
      v-else
      class="running small soft"
      data-testid="running"
    >{{ running }}</span>
  </section>
</template>

<style scoped>
.actions {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  min-width: 0;
  padding: 0.3rem 0.6rem;
  border-bottom: 1px solid var(--rule);
  background: var(--panel);
}
.actions :deep(button) {
  white-space: nowrap;
  flex: none;
}
.level {
  width: 190px;
}
.gap {
  flex: 0 1 0.6rem;
}
.running {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
progress {
  flex: 1;
  min-width: 40px;
  accent-color: var(--accent);
}
@media (max-width: 700px) {
  .actions {
    flex-wrap: wrap;
  }
}
</style>
