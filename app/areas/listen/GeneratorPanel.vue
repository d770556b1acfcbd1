<script setup lang="ts">
import { signalNames, type Signal, type SignalKind } from '~~/core/dsp'
import { quantities } from '~~/core/units'
import { choicesOfCodes } from '~/parts/choices'
import { useEngine } from '~/sound/engine'
import { useListen } from '~/sound/listen'
import { phrase } from '~/parts/phrase'

/** Kovrin's own test signal: what it is. How loud, on and off stand above the plate. */
const listen = useListen()
const engine = useEngine()
const usual: { [K in SignalKind]: Extract<Signal, { kind: K }> } = {
  pink: { kind: 'pink' },
  white: { kind: 'white' },
  matched: { kind: 'matched', period: 16_384 },
  sine: { kind: 'sine', frequency: 1000 },
  band: { kind: 'band', low: 500, high: 2000 },
  sweeps: { kind: 'sweeps', low: 20, high: 20_000, seconds: 3 },
  clicks: { kind: 'clicks' },
  pulses: { kind: 'pulses' },
}
const signals = choicesOfCodes(signalNames)
const choose = (kind: SignalKind) => {
  listen.signal
    = kind === 'matched' && typeof engine.length === 'number' ? { kind, period: engine.length } : usual[kind]
}
const set = (change: object) => {
  listen.signal = { ...listen.signal, ...change } as Signal
}
</script>

<template>
  <div class="row apart">
    <h2>{{ phrase('listen.noise') }}</h2>
    <span class="soft small">{{ phrase('listen.fromKovrin') }}</span>
  </div>
  <ChoiceField
    :label="phrase('listen.testSignal')"
    layout="bare"
    :value="listen.signal.kind"
    :options="signals"
    @change="choose"
  />
  <NumberField
    v-if="listen.signal.kind === 'sine'"
    :label="phrase('listen.frequency')"
    :value="listen.signal.frequency"
    v-bind="quantities.frequency"
    @change="set({ frequency: Math.min(20000, Math.max(10, $event)) })"
  />
  <div
    v-if="listen.signal.kind === 'band' || listen.signal.kind === 'sweeps'"
    class="pair"
  >
    <NumberField
      :label="phrase('common.from')"
      :value="listen.signal.low"
      v-bind="quantities.frequency"
      @change="set({ low: Math.max(10, Math.min($event, (listen.signal as { high: number }).high / 2.1)) })"
    />
    <NumberField
      :label="phrase('common.to')"
      :value="listen.signal.high"
      v-bind="quantities.frequency"
      @change="set({ high: Math.min(20000, Math.max($event, (listen.signal as { low: number }).low * 2.1)) })"
    />
  </div>
  <p
    v-if="listen.signal.kind === 'matched' && engine.length !== listen.signal.period"
    class="small soft"
  >
    {{ phrase('listen.itsPeriodIsSamples', { period: listen.signal.period }) }}
  </p>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
}
p {
  margin: 0;
}
</style>
