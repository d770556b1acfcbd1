<script setup lang="ts">
import { rectangle } from '~~/core/acoustics'
import type { Area, Plan, Position, Source } from '~~/core/documents'
import { phrase } from '~/parts/phrase'

/** A small picture of a plan: walls, areas, loudspeakers, microphone positions. */
const props = defineProps<{
  name: string
  plan: Plan
  areas: readonly Area[]
  sources: readonly Source[]
  positions: readonly Position[]
}>()
const points = (corners: readonly { x: number, y: number }[]) => corners.map(c => `${c.x},${c.y}`).join(' ')
const mark = computed(() => Math.max(props.plan.room.size.x, props.plan.room.size.y) / 40)
</script>

<template>
  <svg
    :viewBox="`${-mark} ${-mark} ${plan.room.size.x + 2 * mark} ${plan.room.size.y + 2 * mark}`"
    role="img"
    :aria-label="phrase('sites.planOf', { name })"
  >
    <polygon
      :points="points(plan.room.outline ?? rectangle(plan.room.size.x, plan.room.size.y))"
      class="walls"
      :stroke-width="mark / 3"
    />
    <polygon
      v-for="a in areas"
      :key="a.id"
      :points="points(a.outline)"
      class="area"
      :class="a.kind"
      :stroke-width="mark / 5"
    />
    <template
      v-for="s in sources"
      :key="s.id"
    >
      <rect
        v-for="(e, k) in s.elements"
        :key="k"
        :x="e.place.x - mark / 2"
        :y="e.place.y - mark / 2"
        :width="mark"
        :height="mark"
        :fill="`var(--hue-${s.hue % 8})`"
      />
    </template>
    <circle
      v-for="p in positions"
      :key="p.id"
      :cx="p.place.x"
      :cy="p.place.y"
      :r="mark / 2.4"
      class="microphone"
      :stroke-width="mark / 5"
    />
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  max-height: 84px;
}
.walls {
  fill: var(--well);
  stroke: var(--ink);
}
.area {
  fill: none;
  stroke: var(--rule-strong);
}
.area.stage {
  fill: var(--rule);
}
.microphone {
  fill: var(--paper);
  stroke: var(--ink);
}
</style>
