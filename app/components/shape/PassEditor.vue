<script setup lang="ts">
import type { Family } from '~~/core/dsp'
import { familyName, sameValue, showParameter, type Pass, type PassCapability } from '~~/core/rig'
import { numberKinds } from './fields'

const props = defineProps<{
  label: string
  pass: Pass
  held: Pass | null
  capability: PassCapability
  path: string
}>()
const emit = defineEmits<{ change: [pass: Pass] }>()

const kinds = computed(() =>
  (Object.entries(props.capability.orders) as [Family, number[]][]).flatMap(([family, orders]) =>
    orders.map(order => ({ id: `${family} ${order}`, name: `${familyName(family)} ${6 * order} dB/oct` })),
  ),
)
const set = (change: Partial<Pass>) => emit('change', { ...props.pass, ...change })
function setKind(id: string) {
  const [family, order] = id.split(' ') as [Family, string]
  set({ family, order: Number(order), on: true })
}
</script>

<template>
  <fieldset class="pass">
    <legend>
      <label class="row"><input
                           type="checkbox"
                           :checked="pass.on"
                           :aria-label="`${label} on`"
                           @change="set({ on: ($event.target as HTMLInputElement).checked })"
                         >
        <b>{{ label }}</b></label>
    </legend>
    <div
      class="grid"
      :class="{ off: !pass.on }"
    >
      <NumberField
        :label="`${label} frequency`"
        :value="pass.frequency"
        v-bind="numberKinds.frequency"
        compact
        @change="set({ frequency: $event, on: true })"
      />
      <select
        :value="`${pass.family} ${pass.order}`"
        :aria-label="`${label} family and slope`"
        @change="setKind(($event.target as HTMLSelectElement).value)"
      >
        <option
          v-for="k in kinds"
          :key="k.id"
          :value="k.id"
        >
          {{ k.name }}
        </option>
      </select>
    </div>
    <span
      v-if="held && !sameValue(held, pass)"
      class="held small"
    >in device {{ showParameter(path, held) }}</span>
  </fieldset>
</template>

<style scoped>
.pass {
  border: 0;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 0.2rem;
  min-width: 0;
}
.grid {
  display: grid;
  grid-template-columns: 92px 1fr;
  gap: 0.4rem;
}
.off {
  opacity: 0.6;
}
.held {
  color: var(--warn);
}
</style>
