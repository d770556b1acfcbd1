<script setup lang="ts" generic="R">
import type { TableColumn } from './columns'

/** A small table of figures, all of it in view; rows can be picked where `pick` is listened to. */
const props = defineProps<{
  label: string
  rows: readonly R[]
  columns: readonly TableColumn<R>[]
  rowKey: (row: R, n: number) => string | number
  /** Shown over the table. */
  caption?: string
  rowTitle?: (row: R) => string
  rowClass?: (row: R) => Record<string, boolean>
  /** Attributes of a row, for what is looked for in it. */
  rowAttributes?: (row: R) => Record<string, string | number>
  picked?: (row: R, n: number) => boolean
  /** Nothing but the row itself tells what stands in it: a row that stays the same is not drawn again. */
  still?: boolean
  /** A line under a row, where there is one. */
  under?: (row: R) => string | null
}>()
const emit = defineEmits<{ pick: [row: R, n: number] }>()
const pickable = computed(() => props.picked !== undefined)
</script>

<template>
  <div class="wide">
    <table :aria-label="caption ? undefined : label">
      <caption v-if="caption">
        {{ caption }}
      </caption>
      <thead>
        <tr>
          <th
            v-for="c in columns"
            :key="c.id"
            scope="col"
            :class="{ right: c.numeric }"
            :style="c.width ? { width: c.width } : {}"
            :title="c.title"
          >
            <span :class="{ silent: c.silent }">{{ c.name }}</span>
          </th>
        </tr>
      </thead>
      <tbody
        v-for="(row, n) in rows"
        :key="rowKey(row, n)"
        v-memo="still ? [row, n] : [{}]"
        :class="rowClass?.(row)"
        v-bind="rowAttributes?.(row) ?? {}"
      >
        <tr
          :title="rowTitle?.(row)"
          :class="{ picked: picked?.(row, n), pickable }"
          :tabindex="pickable ? 0 : undefined"
          :aria-selected="pickable ? picked!(row, n) : undefined"
          @click="emit('pick', row, n)"
          @keydown.enter="emit('pick', row, n)"
        >
          <td
            v-for="c in columns"
            :key="c.id"
            :class="{ 'right num': c.numeric, 'soft': c.pale?.(row) }"
          >
            <slot
              :name="c.id"
              :row="row"
              :n="n"
            >
              {{ c.text?.(row) }}
            </slot>
          </td>
        </tr>
        <tr v-if="under?.(row)">
          <td
            :colspan="columns.length"
            class="under"
          >
            {{ under(row) }}
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
/* one that is wider than its place is moved by itself: the text around it stays */
.wide {
  overflow-x: auto;
  min-width: 0;
}
.wide td.num {
  white-space: nowrap;
}
table {
  border-collapse: collapse;
  width: 100%;
}
caption {
  text-align: left;
  padding-bottom: 0.4rem;
  color: var(--ink-soft);
  font-size: 0.86rem;
}
th {
  text-align: left;
  font-weight: 600;
  color: var(--ink-soft);
  font-size: 0.86rem;
}
th,
td {
  padding: var(--cell-y, 0.25rem) 0.5rem var(--cell-y, 0.25rem) 0;
  border-bottom: 1px solid var(--rule);
  vertical-align: top;
}
.right {
  text-align: right;
}
/* words do not begin where a figure ends */
.right + :not(.right) {
  padding-left: 0.9rem;
}
.silent {
  position: absolute;
  clip-path: inset(50%);
}
.under {
  color: var(--warn);
  font-size: 0.86rem;
}
.pickable {
  cursor: pointer;
}
.picked {
  background: var(--well);
  font-weight: 650;
}
</style>
