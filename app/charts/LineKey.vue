<script setup lang="ts">
import type { Drawn } from './traces'
import { phrase } from '~/parts/phrase'

/** The code of the lines, opened on wish: what each way of drawing means, and every line in view by its name. */
defineProps<{ lines: () => readonly Drawn[] }>()
const dashes = ['', '7 3', '2 3', '9 3 2 3', '4 4']
const code = [
  { name: phrase('charts.measuredNow'), width: 3, dash: '' },
  { name: phrase('charts.kept'), width: 1.4, dash: '' },
  { name: phrase('charts.predictedNotMeasured'), width: 2.4, dash: '3 3' },
]
</script>

<template>
  <PopButton
    :label="phrase('charts.key')"
    :name="phrase('charts.keyOfTheLines')"
    :title="phrase('charts.whatTheLinesMean')"
  >
    <div class="key">
      <p
        v-for="c in code"
        :key="c.name"
      >
        <svg
          viewBox="0 0 40 10"
          aria-hidden="true"
        ><path
          d="M0 5H40"
          :stroke-width="c.width"
          :stroke-dasharray="c.dash"
          stroke="var(--ink)"
        /></svg>{{ c.name }}
      </p>
      <p class="soft small">
        {{ phrase('charts.colourSourceDashPosition') }}
      </p>
      <p
        v-for="d in lines()"
        :key="d.id"
        data-key-line
      >
        <svg
          viewBox="0 0 40 10"
          aria-hidden="true"
        ><path
          d="M0 5H40"
          :stroke-width="d.strong ? 3 : 1.4"
          :stroke-dasharray="d.predicted ? '3 3' : dashes[d.dash % dashes.length]"
          :stroke="`var(--hue-${d.hue})`"
        /></svg>{{ d.name }}
      </p>
    </div>
  </PopButton>
</template>

<style scoped>
.key {
  display: grid;
  gap: 0.3rem;
  width: 260px;
}
p {
  margin: 0;
}
svg {
  width: 40px;
  height: 10px;
  margin-right: 0.6rem;
}
</style>
