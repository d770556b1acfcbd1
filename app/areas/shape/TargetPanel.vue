<script setup lang="ts">
import { mostTargetPoints, targetLevel, type TargetPoint } from '~~/core/documents'
import { quantities } from '~~/core/units'
import type { MenuAction } from '~/parts/menus'
import { tableQuantities } from './fields'
import { useTargets } from '~/document/targets'
import { useCharts } from '~/charts/useCharts'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

/** What is aimed for: chosen, drawn, typed, read from a file or taken from a take; for the site or one source. */
const targets = useTargets()
const view = useView()
const site = useSite()
const takes = useTakes()
const charts = useCharts()
const fileField = useTemplateRef('file')
const own = computed(() => targets.own)
const seen = computed(() => takes.measured.findLast(m => m.take.source === view.cell?.source))
const actions = computed<MenuAction[]>(() => [
  { name: phrase('shape.editACopyWith'), run: () => void targets.fromShape() },
  { name: phrase('shape.fromTheTakeIn'), run: () => void targets.fromTake(seen.value!.take.name, seen.value!.curve),
    disabled: !seen.value },
  { name: phrase('shape.readFromAFile'), run: () => fileField.value?.querySelector('input')?.click() },
  ...(own.value ? [{ name: phrase('common.delete'), run: () => void targets.remove() }] : []),
])
const columns = [
  { id: 'frequency', name: 'Hz' },
  { id: 'level', name: 'dB' },
  { id: 'act', name: phrase('shape.act'), silent: true },
]
const sorted = (points: readonly TargetPoint[]) => points.toSorted((a, b) => a.frequency - b.frequency)
const put = (n: number, change: Partial<TargetPoint>) =>
  void targets.set({ points: sorted(own.value!.points.map((p, k) => (k === n ? { ...p, ...change } : p))) })
/** Between a point and the next, on the line. */
function addAfter(n: number) {
  const { points } = own.value!
  const [a, b] = [points[n]!, points[n + 1]]
  const frequency = Number((b ? Math.sqrt(a.frequency * b.frequency) : a.frequency * 2).toPrecision(3))
  if (points.some(p => p.frequency === frequency)) return
  void targets.set({ points: sorted([...points, { frequency, level: targetLevel(points, frequency) }]) })
}
const take = (n: number) => void targets.set({ points: own.value!.points.filter((_, k) => k !== n) })
</script>

<template>
  <div
    class="target"
    data-testid="target"
  >
    <div class="row top">
      <ChoiceField
        class="grow"
        :label="phrase('shape.target2')"
        :value="targets.now.id"
        :options="targets.choices"
        @change="targets.choose"
      />
      <ActionMenu
        :label="phrase('shape.targets')"
        :actions="actions"
      />
    </div>
    <CheckField
      v-if="view.cell"
      :label="phrase('shape.forAlone', { name: site.sourceOf(view.cell.source)?.name ?? '' })"
      :value="targets.isOwnOfSource"
      @change="targets.forSource"
    />
    <CheckField
      v-model:value="charts.settings.showTarget"
      :label="phrase('shape.drawnOnTheMagnitude')"
    />
    <template v-if="own">
      <TextField
        :key="own.id"
        :label="phrase('common.name')"
        :value="own.name"
        :maxlength="80"
        @change="targets.set({ name: $event })"
      />
      <div class="three">
        <NumberField
          :label="phrase('shape.toleranceDb')"
          :value="own.tolerance"
          v-bind="quantities.level"
          @change="targets.set({ tolerance: Math.abs($event) })"
        />
        <NumberField
          :label="phrase('shape.levelFittedFrom')"
          :value="own.range[0]"
          v-bind="quantities.frequency"
          @change="targets.set({ range: [$event, own.range[1]] })"
        />
        <NumberField
          :label="phrase('shape.to')"
          :name="phrase('shape.levelFittedTo')"
          :value="own.range[1]"
          v-bind="quantities.frequency"
          @change="targets.set({ range: [own.range[0], $event] })"
        />
      </div>
      <div class="row">
        <CheckField
          :label="phrase('shape.setLevelByHand')"
          :value="own.level !== null"
          @change="targets.set({ level: $event ? 0 : null })"
        />
        <NumberField
          v-if="own.level !== null"
          layout="bare"
          :label="phrase('shape.targetLevel')"
          :value="own.level"
          v-bind="quantities.level"
          @change="targets.set({ level: $event })"
        />
      </div>
      <CheckField
        v-model:value="targets.editing"
        :label="phrase('shape.draggablePointsOnThe')"
      />
      <FigureTable
        :label="phrase('shape.pointsOfTheTarget')"
        :rows="own.points"
        :columns="columns"
        :row-key="(_, n) => n"
      >
        <template #frequency="{ row, n }">
          <NumberField
            layout="bare"
            :label="phrase('shape.pointFrequency', { n: n + 1 })"
            :value="row.frequency"
            v-bind="tableQuantities.frequency"
            @change="put(n, { frequency: $event })"
          />
        </template>
        <template #level="{ row, n }">
          <NumberField
            layout="bare"
            :label="phrase('shape.pointLevel', { n: n + 1 })"
            :value="row.level"
            v-bind="tableQuantities.level"
            @change="put(n, { level: $event })"
          />
        </template>
        <template #act="{ n }">
          <ActionButton
            size="small"
            text
            icon="pi pi-plus"
            :aria-label="phrase('shape.addAPointAfter', { n: n + 1 })"
            :disabled="own.points.length >= mostTargetPoints"
            @click="addAfter(n)"
          />
          <ActionButton
            size="small"
            text
            icon="pi pi-times"
            :aria-label="phrase('shape.removePoint', { n: n + 1 })"
            :disabled="own.points.length < 2"
            @click="take(n)"
          />
        </template>
      </FigureTable>
    </template>
    <span
      ref="file"
      class="unseen"
      data-testid="target-file"
    >
      <FileField
        :label="phrase('shape.aTargetFromA')"
        accept=".txt,.csv,.frd"
        @pick="targets.fromFile($event[0]!)"
      />
    </span>
  </div>
</template>

<style scoped>
.target {
  display: grid;
  gap: 0.4rem;
}
.top {
  align-items: end;
}
.grow {
  flex: 1;
  min-width: 0;
}
.three {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 0.4rem;
  align-items: end;
}
.unseen {
  display: none;
}
</style>
