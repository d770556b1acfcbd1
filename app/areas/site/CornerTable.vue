<script setup lang="ts">
import type { Corner } from '~~/core/acoustics'

/** Corners of an outline as exact numbers; one is added in the middle of the longest wall. */
const props = defineProps<{ outline: readonly Corner[] }>()
const emit = defineEmits<{ change: [outline: Corner[]] }>()
const length = useLength()
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
  <table class="corners">
    <thead>
      <tr>
        <th>Corner</th>
        <th>Along</th>
        <th>Across</th>
        <th />
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="(c, n) in outline"
        :key="n"
      >
        <td class="num">
          {{ n + 1 }}
        </td>
        <td>
          <NumberField
            compact
            :label="`Corner ${n + 1} along`"
            :value="c.x"
            v-bind="length.field.value"
            @change="set(n, { x: $event })"
          />
        </td>
        <td>
          <NumberField
            compact
            :label="`Corner ${n + 1} across`"
            :value="c.y"
            v-bind="length.field.value"
            @change="set(n, { y: $event })"
          />
        </td>
        <td>
          <button
            class="plain"
            :disabled="outline.length <= 3"
            :aria-label="`Remove corner ${n + 1}`"
            title="Remove this corner"
            @click="
              emit(
                'change',
                outline.filter((_, k) => k !== n),
              )
            "
          >
            <i class="pi pi-times" />
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <Button
    size="small"
    text
    label="Add a corner"
    @click="add"
  />
</template>

<style scoped>
.corners {
  border-collapse: collapse;
  width: 100%;
}
th {
  text-align: left;
  font-weight: 500;
  font-size: 0.84rem;
  color: var(--ink-soft);
}
td,
th {
  padding: 1px 4px 1px 0;
}
td button {
  min-width: 34px;
  min-height: 34px;
  text-align: center;
}
button:disabled {
  opacity: 0.4;
}
</style>
