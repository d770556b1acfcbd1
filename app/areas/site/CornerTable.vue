<script setup lang="ts">
import type { Corner } from '~~/core/acoustics'

/** Corners of an outline as exact numbers; one is added in the middle of the longest wall. */
const props = defineProps<{ outline: readonly Corner[] }>()
const emit = defineEmits<{ change: [outline: Corner[]] }>()
const length = useLength()
const columns = [
  { id: 'corner', name: 'Corner' },
  { id: 'along', name: 'Along' },
  { id: 'across', name: 'Across' },
  { id: 'remove', name: 'Remove', silent: true },
]
const set = (n: number, change: Partial<Corner>) =>
  emit(
    'change',
    props.outline.map((c, k) => (k === n ? { ...c, ...change } : c)),
  )
function add() {
  const at = (n: number) => props.outline[n % props.outline.length]!
  const size = (n: number) => Math.hypot(at(n + 1).x - at(n).x, at(n + 1).y - at(n).y)
  const longest = props.outline.reduce((best, _, n) => (size(n) > size(best) ? n : best), 0)
  const middle = {
    x: Math.round((at(longest).x + at(longest + 1).x) * 50) / 100,
    y: Math.round((at(longest).y + at(longest + 1).y) * 50) / 100,
  }
  emit('change', [...props.outline.slice(0, longest + 1), middle, ...props.outline.slice(longest + 1)])
}
</script>

<template>
  <FigureTable
    class="corners"
    label="Corners"
    :rows="outline"
    :columns="columns"
    :row-key="(_, n) => n"
  >
    <template #corner="{ n }">
      {{ n + 1 }}
    </template>
    <template #along="{ row: c, n }">
      <NumberField
        layout="bare"
        :label="`Corner ${n + 1} along`"
        :value="c.x"
        v-bind="length.field.value"
        @change="set(n, { x: $event })"
      />
    </template>
    <template #across="{ row: c, n }">
      <NumberField
        layout="bare"
        :label="`Corner ${n + 1} across`"
        :value="c.y"
        v-bind="length.field.value"
        @change="set(n, { y: $event })"
      />
    </template>
    <template #remove="{ n }">
      <button
        class="plain"
        :disabled="outline.length <= 3"
        :aria-label="`Remove corner ${n + 1}`"
        title="Remove this corner"
        @click="emit('change', outline.filter((_, k) => k !== n))"
      >
        <i class="pi pi-times" />
      </button>
    </template>
  </FigureTable>
  <ActionButton
    size="small"
    text
    label="Add a corner"
    @click="add"
  />
</template>

<style scoped>
.corners {
  --cell-y: 1px;
}
.corners button {
  min-width: 34px;
  min-height: 34px;
  text-align: center;
}
button:disabled {
  opacity: 0.4;
}
</style>
