<script setup lang="ts">
import { plainQuantity, quantities, showDelay, showNumber } from '~~/core/units'
import { useSite } from '~/document/site'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import { useSweep } from '~/sound/sweepStore'
import { phrase } from '~/parts/phrase'

/** Sweeps: one at the picked cell, or the whole ledger unattended. */
const sweep = useSweep()
const listen = useListen()
const sets = useSets()
const site = useSite()
const plan = computed(() => sweep.plan)
const set = (change: Partial<typeof sweep.plan>) => {
  sweep.plan = { ...sweep.plan, ...change }
}
const busy = computed(() => sweep.state !== 'idle')
const left = computed(() => {
  const tail = sweep.tailOf()
  const one = (plan.value.seconds + 0.5 + tail) * plan.value.repeats + 2 + tail
  const cells = sweep.round ? sweep.round.of - sweep.round.at : 0
  return Math.max(0, Math.round(one * (1 - sweep.done) + cells * one))
})
const worst = computed(() =>
  sweep.last?.signalToNoise.length
    ? sweep.last.signalToNoise.reduce((a, b) => (b.level < a.level ? b : a))
    : null)
const dry = computed(() => sweep.todo.length > 0)
const hasParts = computed(() => site.sources.some(s => site.outputs(s.id).length > 1))
const arrival = computed(() => {
  const first = sweep.last?.first ?? null
  return first === null ? phrase('listen.noArrivalCanBe') : `arrival ${showDelay(first)}`
})
</script>

<template>
  <div
    class="section"
    data-testid="sweep"
  >
    <div class="row apart">
      <h2>{{ phrase('common.sweep') }}</h2>
      <span class="soft small">{{ phrase('listen.responseNoiseAndDistortion') }}</span>
    </div>
    <div class="four">
      <NumberField
        :label="phrase('common.from')"
        :value="plan.low"
        v-bind="quantities.frequency"
        @change="set({ low: Math.max(5, Math.min($event, plan.high / 2.1)) })"
      />
      <NumberField
        :label="phrase('common.to')"
        :value="plan.high"
        v-bind="quantities.frequency"
        @change="set({ high: Math.min(20000, Math.max($event, plan.low * 2.1)) })"
      />
      <NumberField
        :label="phrase('common.length')"
        :value="plan.seconds"
        v-bind="plainQuantity('s', 0.5, 1)"
        @change="set({ seconds: Math.max(0.5, Math.min(20, $event)) })"
      />
      <NumberField
        :label="phrase('common.times')"
        :value="plan.repeats"
        v-bind="plainQuantity('', 1, 0)"
        @change="set({ repeats: Math.max(1, Math.min(16, Math.round($event))) })"
      />
    </div>
    <SliderField
      :label="phrase('common.level')"
      :name="phrase('listen.sweepLevelInDbfs')"
      layout="beside"
      :value="plan.level"
      :min="-50"
      :max="-6"
      :show="v => `${showNumber(v, 0)} dBFS`"
      @change="set({ level: $event })"
    />
    <template v-if="busy">
      <p
        class="small"
        role="status"
      >
        <template v-if="sweep.round">
          <b>{{ phrase('listen.of', { at: sweep.round.at, all: sweep.round.of }) }}</b> {{ `${sweep.round.name}: ` }}
</template>{{
          sweep.state === 'checking' ? phrase('listen.aShortNoiseTo') : phrase('listen.sweepingAboutSLeft', {
            left,
          })
        }}
      </p>
    </template>
    <template v-else>
      <ActionButton
        severity="secondary"
        :label="
          dry
            ? phrase('listen.sweepAllCellTo', { todo: sweep.todo.length })
            : phrase('listen.sweepAllNothingTo')
        "
        :disabled="!dry || listen.taken !== null"
        :title="listen.taken ?? undefined"
        data-testid="sweep-all"
        @click="sweep.sweepAll()"
      />
      <CheckField
        v-if="hasParts"
        v-model:value="sweep.alone"
        :label="phrase('listen.eachOutputAloneToo')"
      />
      <p class="soft small">
        {{
          phrase('listen.theOthersAreMuted', {
            how: sets.facts.walks ? phrase('listen.theSimulatedMicrophoneWalks') : phrase('listen.allSourcesOneBy'),
          })
        }}
      </p>
    </template>
    <p
      v-if="sweep.last && worst && !busy"
      class="small"
      data-testid="sweep-result"
    >
      {{ phrase('listen.lastDbOverThe', { arrival, level: showNumber(worst.level, 0), band: worst.band }) }}
    </p>
  </div>
</template>

<style scoped>
.four {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr 0.7fr;
  gap: 0.4rem;
}
p {
  margin: 0;
}
</style>
