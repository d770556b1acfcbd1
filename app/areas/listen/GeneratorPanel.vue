<script setup lang="ts">
import { signalNames, type Signal, type SignalKind } from '~~/core/dsp'
import { quantities } from '~~/core/units'

/** Kovrin's own test signal: what, how loud, on and off. */
const listen = useListen()
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
const choose = (kind: SignalKind) => {
  listen.signal
    = kind === 'matched' && typeof listen.length === 'number' ? { kind, period: listen.length } : usual[kind]
}
const set = (change: object) => {
  listen.signal = { ...listen.signal, ...change } as Signal
}
const asPeak = computed(() => listen.signal.kind === 'clicks' || listen.signal.kind === 'pulses')
</script>

<template>
  <div class="row apart">
    <h2>Noise</h2>
    <span class="soft small">from Kovrin</span>
  </div>
  <select
    :value="listen.signal.kind"
    aria-label="Test signal"
    @change="choose(($event.target as HTMLSelectElement).value as SignalKind)"
  >
    <option
      v-for="(name, kind) in signalNames"
      :key="kind"
      :value="kind"
    >
      {{ name }}
    </option>
  </select>
  <NumberField
    v-if="listen.signal.kind === 'sine'"
    label="Frequency"
    :value="listen.signal.frequency"
    v-bind="quantities.frequency"
    @change="set({ frequency: Math.min(20000, Math.max(10, $event)) })"
  />
  <div
    v-if="listen.signal.kind === 'band' || listen.signal.kind === 'sweeps'"
    class="pair"
  >
    <NumberField
      label="From"
      :value="listen.signal.low"
      v-bind="quantities.frequency"
      @change="set({ low: Math.max(10, Math.min($event, (listen.signal as { high: number }).high / 2.1)) })"
    />
    <NumberField
      label="To"
      :value="listen.signal.high"
      v-bind="quantities.frequency"
      @change="set({ high: Math.min(20000, Math.max($event, (listen.signal as { low: number }).low * 2.1)) })"
    />
  </div>
  <p
    v-if="listen.signal.kind === 'matched' && listen.length !== listen.signal.period"
    class="small soft"
  >
    Its period is {{ listen.signal.period }} samples: choose that block length, and no window, to need no averaging.
  </p>
  <Button
    :label="listen.noise ? 'Stop noise' : 'Start noise'"
    :severity="listen.noise ? 'secondary' : undefined"
    title="Noise on or off (N)"
    data-testid="noise"
    @click="listen.turnNoise(!listen.noise)"
  />
  <label class="row level"><span class="small soft">Level</span><input
    v-model.number="listen.noiseLevel"
    type="range"
    min="-50"
    max="-6"
    step="1"
    aria-label="Noise level in dBFS"
  ><span class="num">{{ `${listen.noiseLevel}`.replace('-', '−') }} dBFS{{ asPeak ? ' peak' : '' }}</span></label>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
}
.level input {
  flex: 1;
  min-width: 0;
  accent-color: var(--accent);
}
p {
  margin: 0;
}
</style>
