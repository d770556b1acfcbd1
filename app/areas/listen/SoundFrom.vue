<script setup lang="ts">
import { simulatedOutputs, highestOrder, backgroundIds, backgrounds } from '~~/standins/venue/offers'
import { choicesOf, choicesOfNames } from '~/parts/choices'
import { useComputerInputs } from '~/sound/computerInputs'
import { useHall } from '~/sound/hall'
import { useInputs } from '~/sound/inputs'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'

/**
 * Where the sound comes from and goes to: the simulated interface and what happens in its hall, or this computer's own
 * devices.
 */
const sets = useSets()
const hall = useHall()
const listen = useListen()
const computer = useComputerInputs()
const inputs = useInputs()
onMounted(() => void computer.list().catch(() => {}))
const outputs = computed(() => [
  { value: '', label: 'Default output of this computer' },
  ...inputs.outputs
    .filter(o => o.present && (!o.device.hidden || o.device.key === computer.output))
    .map(o => ({ value: o.device.key, label: inputs.nameOf(o.device) })),
])
const origins = choicesOfNames({ venue: 'Simulated interface (no gear needed)', computer: 'This computer’s inputs' })
const hallOutputs = simulatedOutputs.map((label, value) => ({ value, label }))
const events = choicesOf(backgroundIds, id => backgrounds[id].name)
const orders = choicesOf(
  Array.from({ length: highestOrder + 1 }, (_, n) => n),
  n => (n === 0 ? 'direct sound and tail only' : `one by one up to order ${n}`),
)
const speeds = [
  { value: 1, label: 'shared' },
  { value: 2, label: 'twice as fast' },
  { value: 4, label: 'four times as fast' },
]
</script>

<template>
  <div class="section">
    <h2>Sound from</h2>
    <ChoiceField
      v-model:value="sets.input"
      label="Sound from"
      layout="bare"
      :options="origins"
    />
    <template v-if="sets.facts.simulated">
      <p class="soft small">
        The simulated microphones stand where the measurements above say.
      </p>
      <ChoiceField
        v-model:value="hall.output"
        label="Generator output"
        name="Generator outputput"
        layout="beside"
        :options="hallOutputs"
      />
      <ChoiceField
        v-model:value="hall.background"
        label="In the hall"
        layout="beside"
        :options="events"
      />
      <ChoiceField
        v-model:value="hall.reflections"
        label="Reflections"
        layout="beside"
        :options="orders"
      />
      <ChoiceField
        v-model:value="hall.speed"
        label="Clock"
        name="Its clock: the hall’s"
        layout="beside"
        :options="speeds"
      />
      <CheckField
        v-model:value="hall.programme"
        label="The console plays music into the rig"
      />
      <CheckField
        v-model:value="hall.evening"
        label="Simulate the evening: show-time air in ten minutes"
      />
      <ActionButton
        v-if="!listen.running"
        size="small"
        text
        label="Listen without noise"
        data-testid="listen-only"
        @click="listen.start()"
      />
    </template>
    <template v-else>
      <ChoiceField
        v-model:value="computer.output"
        label="Generator output"
        name="Generator outputput"
        layout="beside"
        :options="outputs"
      />
      <ActionButton
        :label="computer.state === 'open' ? 'Stop listening' : 'Listen'"
        :severity="computer.state === 'open' ? 'secondary' : undefined"
        :loading="computer.state === 'asking'"
        :disabled="!sets.able.length"
        data-testid="listen"
        @click="computer.state === 'open' ? listen.stop() : listen.start()"
      />
      <p
        v-if="computer.why"
        class="sentence error"
        data-testid="input-trouble"
      >
        {{ computer.why }}
      </p>
    </template>
  </div>
</template>

<style scoped>
p {
  margin: 0;
}
</style>
