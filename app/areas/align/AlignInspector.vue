<script setup lang="ts">
import { quantities } from '~~/core/units'
import { useAligning } from './aligning'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { choicesOf } from '~/parts/choices'
import { phrase } from '~/parts/phrase'

/** Which sources are aligned, and bringing several together in time. */
const site = useSite()
const view = useView()
const aligning = useAligning()
const modes = choicesOf([true, false], live => (live ? phrase('common.live') : phrase('common.draft')))
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
  { value: '', label: phrase('align.allPositionsWeighted') },
  ...site.positions.map(p => ({ value: p.id, label: p.name })),
])
const weights = computed(() => site.positions.map(p => (at.value ? Number(p.id === at.value) : p.weight)))
</script>

<template>
  <div data-testid="align-inspector">
    <div class="section">
      <SegmentField
        :label="phrase('common.edits')"
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
        :label="phrase('common.reference')"
        :value="aligning.reference?.id ?? ''"
        :options="choices"
        @change="aligning.referenceId = $event"
      />
      <ChoiceField
        v-if="aligning.move"
        :label="phrase('align.sourceToAlign')"
        :value="aligning.move.id"
        :options="aligning.movable.map(p => ({ value: p.id, label: p.name }))"
        @change="view.aligned = $event"
      />
    </div>
    <div
      v-if="others.length"
      class="section fields"
    >
      <h2>{{ phrase('align.timeAlign') }}</h2>
      <CheckField
        v-for="s in others"
        :key="s.id"
        :label="aligning.isMeasured(s) ? s.name : phrase('align.fromPlan', { name: s.name })"
        :name="s.name"
        :value="picked.includes(s.id)"
        @change="toggle(s.id)"
      />
      <NumberField
        :label="phrase('align.offset')"
        :value="later"
        v-bind="quantities.delay"
        @change="later = Math.max(0, $event)"
      />
      <ChoiceField
        v-model:value="at"
        :label="phrase('align.at')"
        :options="where"
      />
      <ActionButton
        size="small"
        :label="phrase('align.alignTimes')"
        :disabled="!picked.length"
        @click="aligning.together(picked, later, weights)"
      />
      <p class="soft small">
        {{ phrase('align.withToMsLater', { name: aligning.timeReference?.name ?? '' }) }}
      </p>
    </div>
    <p
      v-else
      class="section soft"
    >
      {{ phrase('align.twoSourcesThatWere') }}
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
