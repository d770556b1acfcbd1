<script setup lang="ts">
import { quantities } from '~~/core/units'
import { useAligning } from './aligning'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { choicesOf } from '~/parts/choices'

/** Which sources are aligned, and bringing several together in time. */
const site = useSite()
const view = useView()
const aligning = useAligning()
const modes = choicesOf([true, false], live => (live ? 'Live' : 'Draft'))
const choices = computed(() => aligning.known.map(s => ({ value: s.id, label: s.name })))
const others = computed(() => aligning.timeable.filter(p => !aligning.timeReference?.members.includes(p.id)))
const picked = ref<string[]>([])
const toggle = (id: string) => {
  picked.value = picked.value.includes(id) ? picked.value.filter(p => p !== id) : [...picked.value, id]
}
const later = ref(0)
/** One position, or all by their weights. */
const at = ref('')
const where = computed(() => [
  { value: '', label: 'all positions, weighted' },
  ...site.positions.map(p => ({ value: p.id, label: p.name })),
])
const weights = computed(() => site.positions.map(p => (at.value ? Number(p.id === at.value) : p.weight)))
</script>

<template>
  <div data-testid="align-inspector">
    <div class="section">
      <SegmentField
        label="Edits"
        :value="site.live"
        :options="modes"
        @change="site.live = $event"
      />
    </div>
    <div
      v-if="aligning.known.length"
      class="section fields"
    >
      <ChoiceField
        label="Reference"
        :value="aligning.reference?.id ?? ''"
        :options="choices"
        @change="aligning.referenceId = $event"
      />
      <ChoiceField
        v-if="aligning.move"
        label="Source to align"
        :value="aligning.move.id"
        :options="aligning.movable.map(p => ({ value: p.id, label: p.name }))"
        @change="view.aligned = $event"
      />
    </div>
    <div
      v-if="others.length"
      class="section fields"
    >
      <h2>Time align</h2>
      <CheckField
        v-for="s in others"
        :key="s.id"
        :label="aligning.isMeasured(s) ? s.name : `${s.name}, from plan`"
        :name="s.name"
        :value="picked.includes(s.id)"
        @change="toggle(s.id)"
      />
      <NumberField
        label="Offset"
        :value="later"
        v-bind="quantities.delay"
        @change="later = Math.max(0, $event)"
      />
      <ChoiceField
        v-model:value="at"
        label="At"
        :options="where"
      />
      <ActionButton
        size="small"
        label="Align times"
        :disabled="!picked.length"
        @click="aligning.together(picked, later, weights)"
      />
      <p class="soft small">
        With {{ aligning.timeReference?.name }}. 5 to 15 ms later keeps the image on the stage (common practice).
      </p>
    </div>
    <p
      v-else
      class="section soft"
    >
      Two sources that were measured alone can be time aligned here.
    </p>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 0.5rem;
}
h2,
p {
  margin: 0;
}
</style>
