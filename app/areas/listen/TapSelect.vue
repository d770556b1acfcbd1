<script setup lang="ts">
import { generatorTap, tapOf, type Tap } from '~~/core/measure'

/** Picks an input channel by its device and its label; hidden devices and those of the other kind are left out. */
const props = defineProps<{ value: Tap, name: string, generator?: boolean }>()
const emit = defineEmits<{ change: [tap: Tap] }>()
const inputs = useInputs()
const sets = useSets()
const groups = computed(() =>
  inputs.inputs
    .filter(
      i =>
        i.simulated === (sets.input === 'venue')
        && (!i.device.hidden || props.value.startsWith(`${i.device.key}#`))
        && (i.present || props.value.startsWith(`${i.device.key}#`)),
    )
    .map(i => ({
      key: i.device.key,
      name: `${inputs.nameOf(i.device)}${i.present ? '' : ' (not plugged in)'}`,
      taps: i.device.channels.map((c, n) => ({ tap: tapOf(i.device.key, n), name: c.name || `channel ${n + 1}` })),
    })),
)
const known = computed(
  () => props.value === generatorTap || groups.value.some(g => g.taps.some(t => t.tap === props.value)),
)
</script>

<template>
  <select
    :value="value"
    :aria-label="name"
    @change="emit('change', ($event.target as HTMLSelectElement).value)"
  >
    <option
      v-if="!known"
      :value="value"
    >
      {{ inputs.labelOf(value, true) }}
    </option>
    <option
      v-if="generator"
      :value="generatorTap"
    >
      {{ inputs.labelOf(generatorTap) }}
    </option>
    <optgroup
      v-for="g in groups"
      :key="g.key"
      :label="g.name"
    >
      <option
        v-for="t in g.taps"
        :key="t.tap"
        :value="t.tap"
      >
        {{ t.name }}
      </option>
    </optgroup>
  </select>
</template>
