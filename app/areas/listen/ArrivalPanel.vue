<script setup lang="ts">
import { speedOfSound } from '~~/core/acoustics'
import { parseDelay, showDelay, showLevel, showNumber, quantities } from '~~/core/units'

/** The delay taken out of the microphone, and every arrival in the response; two picked give their difference. */
const listen = useListen()
const site = useSite()
const length = useLength()
const c = computed(() => speedOfSound(site.plan.air.temperature))
const context = computed(() => ({ speedOfSound: c.value, sampleRate: listen.impulse?.sampleRate ?? 48_000 }))
const echoes = computed(() => listen.impulse?.echoes ?? [])
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
    v-if="listen.curve"
    class="section"
    data-testid="arrivals"
  >
    <div class="row apart">
      <h2>Arrivals</h2>
      <label class="row small"><input
        v-model="listen.following"
        type="checkbox"
      > follow slow movement</label>
    </div>
    <NumberField
      label="Delay taken out (ms, samples, m, ft)"
      :value="listen.delay"
      v-bind="quantities.delay"
      :parse="text => parseDelay(text, context)"
      :nudge="(v, n) => v + n / context.sampleRate"
      @change="listen.setDelay($event)"
    />
    <table
      v-if="echoes.length"
      class="plain"
    >
      <thead>
        <tr>
          <th class="num">
            after, ms
          </th>
          <th
            class="num"
            title="Without the electronics’ own delay"
          >
            way
          </th>
          <th class="num">
            dB
          </th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="(e, n) in echoes"
          :key="n"
          :class="{ on: picked.includes(n) }"
          tabindex="0"
          @click="pick(n)"
          @keydown.enter="pick(n)"
        >
          <td class="num">
            {{ showNumber(e.time * 1000, 2) }}
          </td>
          <td class="num">
            {{ length.show((listen.delay + e.time - listen.electronics()) * c, 2) }}
          </td>
          <td class="num">
            {{ showNumber(e.level, 1) }}
          </td>
          <td>{{ e.polarity < 0 ? 'turned' : '' }}</td>
        </tr>
      </tbody>
    </table>
    <p
      class="small"
      :class="{ soft: !apart }"
    >
      {{ apart ?? 'Pick two for their difference.' }}
    </p>
  </div>
</template>

<style scoped>
tr {
  cursor: pointer;
}
tr.on {
  background: var(--well);
  font-weight: 650;
}
table.plain td {
  padding-block: 0.15rem;
}
p {
  margin: 0;
}
</style>
