<script setup lang="ts">
import { simulatedOutputs } from '~~/standins/venue/interface'
import { highestOrder } from '~~/standins/venue/acoustics'
import { backgroundIds, backgrounds } from '~~/standins/venue/background'

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
const outputs = computed(() =>
  inputs.outputs.filter(o => o.present && (!o.device.hidden || o.device.key === computer.output)),
)
</script>

<template>
  <div class="section">
    <h2>Sound from</h2>
    <select
      v-model="sets.input"
      aria-label="Sound from"
    >
      <option value="venue">
        Simulated interface (no gear needed)
      </option>
      <option value="computer">
        This computer’s inputs
      </option>
    </select>
    <template v-if="sets.input === 'venue'">
      <p class="soft small">
        The simulated microphones stand where the measurements above say and hear what the stand-in devices hold.
      </p>
      <label class="two"><span class="small soft">Noise out</span><select
        v-model.number="hall.output"
        aria-label="Noise output"
      >
        <option
          v-for="(name, n) in simulatedOutputs"
          :key="n"
          :value="n"
        >{{ name }}</option>
      </select></label>
      <label class="two"><span class="small soft">In the hall</span><select
        v-model="hall.background"
        aria-label="In the hall"
      >
        <option
          v-for="b in backgroundIds"
          :key="b"
          :value="b"
        >{{ backgrounds[b].name }}</option>
      </select></label>
      <label class="two"><span class="small soft">Reflections</span><select
        v-model.number="hall.reflections"
        aria-label="Reflections"
      >
        <option
          v-for="n in highestOrder + 1"
          :key="n"
          :value="n - 1"
        >
          {{ n === 1 ? 'direct sound and tail only' : `one by one up to order ${n - 1}` }}
        </option>
      </select></label>
      <label class="two"><span class="small soft">Its clock</span><select
        v-model.number="hall.speed"
        aria-label="Clock of the hall"
      >
        <option :value="1">as ours</option>
        <option :value="2">twice as fast</option>
        <option :value="4">four times as fast</option>
      </select></label>
      <label class="row small"><input
        v-model="hall.programme"
        type="checkbox"
      > The console plays music into the rig</label>
      <label class="row small"><input
        v-model="hall.evening"
        type="checkbox"
      > Let the evening pass: the air of show time in ten
        minutes</label>
      <Button
        v-if="!listen.running"
        size="small"
        text
        label="Listen without noise"
        data-testid="listen-only"
        @click="listen.start()"
      />
    </template>
    <template v-else>
      <label class="two"><span class="small soft">Noise out</span><select
        v-model="computer.output"
        aria-label="Noise output"
      >
        <option value="">The computer’s default output</option>
        <option
          v-for="o in outputs"
          :key="o.device.key"
          :value="o.device.key"
        >
          {{ inputs.nameOf(o.device) }}
        </option>
      </select></label>
      <Button
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
.two {
  display: grid;
  grid-template-columns: 84px 1fr;
  align-items: center;
}
</style>
