<script setup lang="ts">
import { absorptionOf, materialIds, materials, octaveBands, type Surface } from '~~/core/acoustics'
import { plainQuantity } from '~~/core/units'
import { choicesOf } from '~/parts/choices'
import { phrase } from '~/parts/phrase'

/** What a surface is made of: a finish from the table, or absorption of its own per octave. */
const props = defineProps<{ label: string, surface: Surface }>()
const emit = defineEmits<{ change: [surface: Surface] }>()
const own = computed(() => typeof props.surface !== 'string')
const finishes = [
  ...choicesOf<string>(materialIds, id => phrase(materials[id as keyof typeof materials].name)),
  { value: 'own', label: phrase('site.ownAbsorption') },
]
const choose = (id: string) => emit('change', id === 'own' ? [...absorptionOf(props.surface)] : (id as Surface))
const set = (o: number, value: number) =>
  emit(
    'change',
    absorptionOf(props.surface).map((a, k) => (k === o ? value : a)),
  )
const kind = plainQuantity('', 0.05, 2)
</script>

<template>
  <div>
    <ChoiceField
      :label="label"
      layout="beside"
      :value="typeof surface === 'string' ? surface : 'own'"
      :options="finishes"
      @change="choose"
    />
    <div
      v-if="own"
      class="octaves"
      role="group"
      :aria-label="phrase('site.absorptionOf', { label })"
    >
      <NumberField
        v-for="(a, o) in absorptionOf(surface)"
        :key="o"
        :label="`${octaveBands[o]} Hz`"
        :value="a"
        v-bind="kind"
        @change="set(o, $event)"
      />
    </div>
  </div>
</template>

<style scoped>
.octaves {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 0.3rem;
  padding: 0.3rem 0 0.5rem;
}
</style>
