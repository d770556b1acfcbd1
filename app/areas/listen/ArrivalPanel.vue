<script setup lang="ts">
import { useTogether } from './useTogether'
import type { TableColumn } from '~/parts/columns'
import { speedOfSound } from '~~/core/acoustics'
import { parseDelay, showDelay, showLevel, showNumber, quantities } from '~~/core/units'
import { useSite } from '~/document/site'
import { useLength } from '~/document/useLength'
import { useEngine } from '~/sound/engine'
import { useListen } from '~/sound/listen'
import { phrase } from '~/parts/phrase'

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
  { id: 'after', name: phrase('listen.afterMs'), numeric: true, text: e => showNumber(e.time * 1000, 2) },
  {
    id: 'way',
    name: phrase('listen.way'),
    numeric: true,
    title: phrase('listen.withoutTheElectronicsOwn'),
    text: e => length.show((listen.delay + e.time - listen.electronics()) * c.value, 2),
  },
  { id: 'level', name: 'dB', numeric: true, text: e => showNumber(e.level, 1) },
  { id: 'turned', name: phrase('listen.polarity'), silent: true, text: e => (e.polarity < 0
    ? phrase('listen.inverted')
    : '') },
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
      <h2>{{ phrase('listen.arrivals') }}</h2>
      <CheckField
        v-model:value="engine.following"
        :label="phrase('listen.followSlowChanges')"
      />
    </div>
    <NumberField
      :label="phrase('listen.delayRemovedMsSamples')"
      :value="listen.delay"
      v-bind="quantities.delay"
      :parse="text => parseDelay(text, context)"
      :nudge="(v, n) => v + n / context.sampleRate"
      @change="listen.setDelay($event)"
    />
    <ActionMenu
      v-if="together.actions.value.length"
      :label="phrase('listen.alignWith')"
      :title="phrase('listen.setsTheDelayThat')"
      :actions="together.actions.value"
    />
    <p
      v-else
      class="soft small"
    >
      {{ phrase('listen.takeAnotherSourceHere') }}
    </p>
    <FigureTable
      v-if="echoes.length"
      class="echoes"
      :label="phrase('listen.arrivals')"
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
      {{ apart ?? phrase('listen.pickTwoForTheir') }}
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
