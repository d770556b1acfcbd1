<script setup lang="ts">
import { alignViews } from './area'
import { useView } from '~/document/view'
import { choicesOfNames } from '~/parts/choices'
import PhasePanel from './PhasePanel.vue'
import LevelsPanel from './LevelsPanel.vue'
import PairPanel from './PairPanel.vue'
import TimesPanel from './TimesPanel.vue'
import WholePanel from './WholePanel.vue'
import { phrase } from '~/parts/phrase'

/** Sources against each other, before anything is sent: times, sums of two, the whole, levels, likeness. */
const view = useView()
const options = choicesOfNames(alignViews)
const shown = computed(() => (view.plate && view.plate in alignViews ? view.plate : 'times'))
</script>

<template>
  <section
    class="plate sheet"
    tabindex="0"
    :aria-label="phrase('common.plate')"
    data-testid="align-plate"
  >
    <SegmentField
      :value="shown"
      :label="phrase('align.view')"
      layout="bare"
      :options="options"
      @change="view.plate = $event"
    />
    <TimesPanel v-if="shown === 'times'" />
    <PairPanel v-else-if="shown === 'pair'" />
    <WholePanel v-else-if="shown === 'whole'" />
    <LevelsPanel v-else-if="shown === 'levels'" />
    <PhasePanel v-else />
  </section>
</template>

<style scoped>
.plate {
  overflow-y: auto;
  padding: 0.8rem;
}
.plate :deep(h2),
.plate :deep(h3) {
  margin: 0.6rem 0 0.3rem;
}
.plate :deep(h3) {
  font-size: 1rem;
}
.plate :deep(p) {
  margin: 0.3rem 0;
}
.plate :deep(.wish) {
  display: flex;
  gap: 0.5rem;
  align-items: end;
  flex-wrap: wrap;
}
.plate :deep(.wish > *) {
  width: 118px;
}
.plate :deep(.wish > .go) {
  width: auto;
  white-space: nowrap;
}
</style>
