<script setup lang="ts">
import { alignViews } from '~/frame/view'

/** Sources against each other, before anything is sent: times, sums of two, the whole, levels, likeness. */
const view = useView()
const options = choicesOfNames(alignViews)
</script>

<template>
  <section
    class="plate sheet"
    tabindex="0"
    aria-label="Plate"
    data-testid="align-plate"
  >
    <SegmentField
      v-model:value="view.aligning"
      label="View"
      layout="bare"
      :options="options"
    />
    <TimesPanel v-if="view.aligning === 'times'" />
    <PairPanel v-else-if="view.aligning === 'pair'" />
    <WholePanel v-else-if="view.aligning === 'whole'" />
    <LevelsPanel v-else-if="view.aligning === 'levels'" />
    <AlikePanel v-else />
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
