<script setup lang="ts" generic="R extends object">
import DataTable from 'primevue/datatable'
import Column from 'primevue/column'
import type { TableColumn } from './columns'

/** A long list: only what is in view is built, sorted by a click on a heading; a row is one line high, or two. */
const props = defineProps<{
  label: string
  rows: readonly R[]
  columns: readonly TableColumn<R>[]
  rowKey: string
  /** As high as it may become. */
  height: string
  lines?: 1 | 2 | 3
}>()
const rowHeight = computed(() => 14 + 16 * (props.lines ?? 1))
const cellHeight = computed(() => `${rowHeight.value - 4}px`)
const heading = 40
const tall = computed(() => `min(${props.height}, ${props.rows.length * rowHeight.value + heading}px)`)
const rows = computed(() =>
  props.rows.map(row => ({ row, ...Object.fromEntries(props.columns.map(c => [c.id, c.sort?.(row) ?? ''])) })))
</script>

<template>
  <DataTable
    :key="tall"
    :value="rows"
    :data-key="`row.${rowKey}`"
    size="small"
    scrollable
    :scroll-height="tall"
    :virtual-scroller-options="{ itemSize: rowHeight }"
    removable-sort
    class="list"
    :pt="{
      table: { 'aria-label': label },
      virtualScroller: { root: { 'tabindex': 0, 'role': 'region', 'aria-label': label } },
    }"
  >
    <Column
      v-for="c in columns"
      :key="c.id"
      :field="c.id"
      :header="c.name"
      :sortable="!!c.sort"
      :style="c.width ? { width: c.width } : {}"
    >
      <template #body="{ data }">
        <span
          class="cell"
          :class="{ two: (lines ?? 1) > 1, num: c.numeric, soft: c.pale?.(data.row) }"
        ><slot
          :name="c.id"
          :row="data.row as R"
        >{{ c.text?.(data.row) }}</slot></span>
      </template>
    </Column>
  </DataTable>
</template>

<style scoped>
.list :deep(tbody tr) {
  height: v-bind('`${rowHeight}px`');
}
.list :deep(td) {
  padding-block: 0;
}
.cell {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  max-width: 34rem;
}
.cell.two {
  white-space: normal;
  line-height: 1.25;
  max-height: v-bind(cellHeight);
}
</style>
