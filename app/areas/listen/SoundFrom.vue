<script setup lang="ts">
import { simulatedOutputs, highestOrder, backgroundIds, backgrounds } from '~~/standins/venue/offers'
import { choicesOf, choicesOfNames } from '~/parts/choices'
import { useComputerInputs } from '~/sound/computerInputs'
import { useHall } from '~/sound/hall'
import { useInputs } from '~/sound/inputs'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import { phrase } from '~/parts/phrase'

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
  { value: '', label: phrase('listen.defaultOutputOfThis') },
  ...inputs.outputs
    .filter(o => o.present && (!o.device.hidden || o.device.key === computer.output))
    .map(o => ({ value: o.device.key, label: inputs.nameOf(o.device) })),
])
const origins = choicesOfNames({
  venue: phrase('listen.simulatedInterfaceNoGear'),
  computer: phrase('listen.thisComputersInputs'),
})
const hallOutputs = simulatedOutputs.map((label, value) => ({ value, label }))
const events = choicesOf(backgroundIds, id => phrase(backgrounds[id].name))
const orders = choicesOf(
  Array.from({ length: highestOrder + 1 }, (_, n) => n),
  n => (n === 0 ? phrase('listen.directSoundAndTail') : phrase('listen.oneByOneUp', { n })),
)
const speeds = [
  { value: 1, label: phrase('listen.shared') },
  { value: 2, label: phrase('listen.twiceAsFast') },
  { value: 4, label: phrase('listen.fourTimesAsFast') },
]
</script>

<template>
  <div class="section">
    <h2>{{ phrase('listen.soundFrom') }}</h2>
    <ChoiceField
      v-model:value="sets.input"
      :label="phrase('listen.soundFrom')"
      layout="bare"
      :options="origins"
    />
    <template v-if="sets.facts.simulated">
      <p class="soft small">
        {{ phrase('listen.theSimulatedMicrophonesStand') }}
      </p>
      <ChoiceField
        v-model:value="hall.output"
        :label="phrase('listen.generatorOutput')"
        :name="phrase('listen.generatorOutputput')"
        layout="beside"
        :options="hallOutputs"
      />
      <ChoiceField
        v-model:value="hall.background"
        :label="phrase('listen.inTheHall')"
        layout="beside"
        :options="events"
      />
      <ChoiceField
        v-model:value="hall.reflections"
        :label="phrase('listen.reflections')"
        layout="beside"
        :options="orders"
      />
      <ChoiceField
        v-model:value="hall.speed"
        :label="phrase('listen.clock')"
        :name="phrase('listen.itsClockTheHalls')"
        layout="beside"
        :options="speeds"
      />
      <CheckField
        v-model:value="hall.programme"
        :label="phrase('listen.theConsolePlaysMusic')"
      />
      <CheckField
        v-model:value="hall.evening"
        :label="phrase('listen.simulateTheEveningShow')"
      />
      <ActionButton
        v-if="!listen.running"
        size="small"
        text
        :label="phrase('listen.listenWithoutNoise')"
        data-testid="listen-only"
        @click="listen.start()"
      />
    </template>
    <template v-else>
      <ChoiceField
        v-model:value="computer.output"
        :label="phrase('listen.generatorOutput')"
        :name="phrase('listen.generatorOutputput')"
        layout="beside"
        :options="outputs"
      />
      <ActionButton
        :label="computer.state === 'open' ? phrase('listen.stopListening') : phrase('listen.listen')"
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
