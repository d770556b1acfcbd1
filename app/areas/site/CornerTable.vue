<script setup lang="ts">
import { outlineFaults, type Corner } from '~~/core/acoustics'
import { useLength } from '~/document/useLength'
import { wordsOf } from '~~/core/words'
import { phrase } from '~/parts/phrase'

/**
 * Corners of an outline as exact numbers; one is added in the middle of the longest wall. What cannot be built while it
 * is typed corner by corner is not sent: it waits here until it can.
 */
const props = defineProps<{ outline: readonly Corner[], what: string }>()
const emit = defineEmits<{ change: [outline: Corner[]] }>()
const length = useLength()
const columns = [
  { id: 'corner', name: phrase('site.corner') },
  { id: 'along', name: phrase('site.along') },
  { id: 'across', name: phrase('site.across') },
  { id: 'remove', name: phrase('common.remove'), silent: true },
]
const waiting = ref<Corner[] | null>(null)
watch(() => props.outline, () => (waiting.value = null))
const shown = computed(() => waiting.value ?? props.outline)
const fault = computed(() => waiting.value && outlineFaults(waiting.value, props.what).map(wordsOf)[0])
function put(outline: Corner[]) {
  const isBuilt = !outlineFaults(outline, props.what).length
  waiting.value = isBuilt ? null : outline
  if (isBuilt) emit('change', outline)
}
const set = (n: number, change: Partial<Corner>) =>
  put(shown.value.map((c, k) => (k === n ? { ...c, ...change } : c)))
function add() {
  const outline = shown.value
  const at = (n: number) => outline[n % outline.length]!
  const size = (n: number) => Math.hypot(at(n + 1).x - at(n).x, at(n + 1).y - at(n).y)
  const longest = outline.reduce((best, _, n) => (size(n) > size(best) ? n : best), 0)
  const middle = {
    x: Math.round((at(longest).x + at(longest + 1).x) * 50) / 100,
    y: Math.round((at(longest).y + at(longest + 1).y) * 50) / 100,
  }
  put([...outline.slice(0, longest + 1), middle, ...outline.slice(longest + 1)])
}
</script>

<template>
  <FigureTable
    class="corners"
    :label="phrase('site.corners')"
    :rows="shown"
    :columns="columns"
    :row-key="(_, n) => n"
  >
    <template #corner="{ n }">
      {{ n + 1 }}
    </template>
    <template #along="{ row: c, n }">
      <NumberField
        layout="bare"
        :label="phrase('site.cornerAlong', { n: n + 1 })"
        :value="c.x"
        v-bind="length.field.value"
        @change="set(n, { x: $event })"
      />
    </template>
    <template #across="{ row: c, n }">
      <NumberField
        layout="bare"
        :label="phrase('site.cornerAcross', { n: n + 1 })"
        :value="c.y"
        v-bind="length.field.value"
        @change="set(n, { y: $event })"
      />
    </template>
    <template #remove="{ n }">
      <button
        class="plain"
        :disabled="shown.length <= 3"
        :aria-label="phrase('site.removeCorner', { n: n + 1 })"
        :title="phrase('site.removeThisCorner')"
        @click="put(shown.filter((_, k) => k !== n))"
      >
        <i class="pi pi-times" />
      </button>
    </template>
  </FigureTable>
  <p
    v-if="fault"
    class="small warn"
    role="status"
    data-testid="outline-waits"
  >
    {{ phrase('site.notSetYetGo', { fault }) }}
    <button
      class="plain link"
      @click="waiting = null"
    >
      {{ phrase('site.takeBackWhatWas') }}
    </button>.
  </p>
  <ActionButton
    size="small"
    text
    :label="phrase('site.addACorner')"
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
.warn {
  margin: 0.2rem 0;
  color: var(--warn);
}
.link {
  text-decoration: underline;
}
button:disabled {
  opacity: 0.4;
}
</style>
