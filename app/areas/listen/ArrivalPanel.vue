<script setup lang="ts">
import { useTogether } from './useTogether'
import type { TableColumn } from '~/parts/columns'
import { speedOfSound } from '~~/core/acoustics'
import { parseDelay, showDelay, showLevel, showNumber, quantities } from '~~/core/units'
import { useSite } from '~/document/site'
import { useLength } from '~/document/useLength'
import { useEngine } from '~/sound/engine'
import { useListen } from '~/sound/listen'

/** The delay taken out of the microphone, and every arrival in the response; two picked give their difference. */
const listen = useListen()
const engine = useEngine()
const site = useSite()
const length = useLength()
const c = computed(() => speedOfSound(site.plan.air))
const context = computed(() => ({ speedOfSound: c.value, sampleRate: listen.impulse?.sampleRate ?? 48_000 }))
/** It stays through a change of cell or feed: what is open in it does not vanish under the hand. */
const wasHeard = ref(false)
watch([() => listen.running, () => listen.curve !== null], ([running, hears]) => {
  wasHeard.value = running && (hears || wasHeard.value)
}, { immediate: true })
const echoes = computed(() => listen.impulse?.echoes ?? [])
type Echo = (typeof echoes.value)[number]
const columns: TableColumn<Echo>[] = [
  { id: 'after', name: 'after, ms', numeric: true, text: e => showNumber(e.time * 1000, 2) },
  {
    id: 'way',
    name: 'way',
    numeric: true,
    title: 'Without the electronics’ own delay',
    text: e => length.show((listen.delay + e.time - listen.electronics()) * c.value, 2),
  },
  { id: 'level', name: 'dB', numeric: true, text: e => showNumber(e.level, 1) },
  { id: 'turned', name: 'Polarity', silent: true, text: e => (e.polarity < 0 ? 'inverted' : '') },
]
const together = useTogether()
const picked = ref<number[]>([])
const pick = (n: number) => {
  picked.value = picked.value.includes(n) ? picked.value.filter(x => x !== n) : [...picked.value.slice(-1), n]
}
const apart = computed(() => {
  const [a, b] = picked.value.map(n => echoes.value[n])
  return a && b
    ? `${showDelay(Math.abs(a.time - b.time))} and ${showLevel(b.level - a.level)} apart: `
    + length.show(Math.abs(a.time - b.time) * c.value)
    : null
})
</script>

<template>
  <div
    v-if="wasHeard"
    class="section"
    data-testid="arrivals"
  >
    <div class="row apart">
      <h2>Arrivals</h2>
      <CheckField
        v-model:value="engine.following"
        label="follow slow changes"
      />
    </div>
    <NumberField
      label="Delay removed (ms, samples, m, ft)"
      :value="listen.delay"
      v-bind="quantities.delay"
      :parse="text => parseDelay(text, context)"
      :nudge="(v, n) => v + n / context.sampleRate"
      @change="listen.setDelay($event)"
    />
    <ActionMenu
      v-if="together.actions.value.length"
      label="Align with …"
      title="Sets the delay that lets this source and another arrive here at once"
      :actions="together.actions.value"
    />
    <p
      v-else
      class="soft small"
    >
      Take another source here to let both arrive at once.
    </p>
    <FigureTable
      v-if="echoes.length"
      class="echoes"
      label="Arrivals"
      :rows="echoes"
      :columns="columns"
      :row-key="(_, n) => n"
      :picked="(_, n) => picked.includes(n)"
      @pick="(_, n) => pick(n)"
    />
    <p
      class="small"
      :class="{ soft: !apart }"
    >
      {{ apart ?? 'Pick two for their difference.' }}
    </p>
  </div>
</template>

<style scoped>
.echoes {
  --cell-y: 0.15rem;
}
p {
  margin: 0;
}
</style>
