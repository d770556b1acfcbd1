<script setup lang="ts">
import { generatorTap, tapOf, type Tap } from '~~/core/measure'
import { useInputs } from '~/sound/inputs'
import { useSets } from '~/sound/sets'
import { phrase } from '~/parts/phrase'

/** Picks an input channel by its device and its label; hidden devices and those of the other kind are left out. */
const props = defineProps<{ value: Tap, label: string, name: string, generator?: boolean }>()
const emit = defineEmits<{ change: [tap: Tap] }>()
const inputs = useInputs()
const sets = useSets()
const options = computed(() => {
  const mine = (key: string) => props.value.startsWith(`${key}#`)
  const listed = inputs.inputs
    .filter(
      i =>
        i.simulated === sets.facts.simulated
        && (!i.device.hidden || mine(i.device.key))
        && (i.present || mine(i.device.key)),
    )
    .flatMap(i =>
      i.device.channels.map((c, n) => ({
        value: tapOf(i.device.key, n),
        label: c.name || phrase('listen.channel2', { n: n + 1 }),
        group: `${inputs.nameOf(i.device)}${i.present ? '' : phrase('listen.notPluggedIn2')}`,
      })))
  const own = props.generator || props.value === generatorTap
    ? [{ value: generatorTap, label: inputs.labelOf(generatorTap), group: phrase('listen.insideKovrin') }]
    : []
  const gone = [...own, ...listed].some(o => o.value === props.value)
    ? []
    : [{ value: props.value, label: inputs.labelOf(props.value, true), group: phrase('listen.notThereNow') }]
  return [...gone, ...own, ...listed]
})
</script>

<template>
  <ChoiceField
    :label="label"
    layout="beside"
    :name="name"
    :value="value"
    :options="options"
    @change="emit('change', $event)"
  />
</template>
