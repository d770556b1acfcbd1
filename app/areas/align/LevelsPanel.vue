<script setup lang="ts">
import { gainActs, levelOf, matchedAt } from '~~/core/tune'
import { plainQuantity, quantities, showLevel } from '~~/core/units'
import { useAligning } from './aligning'
import { useHeard } from '~/document/heard'
import { useSite } from '~/document/site'
import CommonTrim from './CommonTrim.vue'
import ZoneShade from './ZoneShade.vue'
import { phrase } from '~/parts/phrase'

/** Levels of sources at their own positions, matched over a band; zones front to back; loudspeakers round a place. */
const site = useSite()
const heard = useHeard()
const aligning = useAligning()
const low = ref(500)
const high = ref(4000)

const columns = computed(() => [
  { id: 'source', name: phrase('common.source') },
  ...site.positions.map((p, n) => ({ id: `p${n}`, name: p.name, numeric: true })),
  { id: 'at', name: phrase('align.matchedAtPosition') },
])
const rows = computed(() => aligning.table.filter(r => r.cells.some(Boolean)).map(r => ({
  ...r,
  levels: r.cells.map(c => (c && high.value > low.value ? levelOf(c, low.value, high.value) : null)),
})))
/** Places that were chosen to match a source at. */
const own = reactive<Record<string, number>>({})
const placeOf = (row: (typeof rows.value)[number]) => matchedAt(row.levels, own[row.source.id])
const reference = computed(() =>
  rows.value.find(r => aligning.reference?.members.includes(r.source.id)) ?? rows.value[0])
const referenceLevel = computed(() =>
  (reference.value ? reference.value.levels[placeOf(reference.value)] ?? null : null))
const against = (level: number | null) =>
  (level === null || referenceLevel.value === null ? '–' : showLevel(level - referenceLevel.value))
const inputAt = (row: (typeof rows.value)[number]) => row.cells[placeOf(row)]?.take.info.input
/** dB that bring a source at its place to the reference at its own. */
const apart = (row: (typeof rows.value)[number]) => {
  const level = row.levels[placeOf(row)]
  return level === null || level === undefined || referenceLevel.value === null ? null : referenceLevel.value - level
}
const otherInput = computed(() => reference.value
  && rows.value.some(r => picked.value.includes(r.source.id) && inputAt(r) !== inputAt(reference.value!)))
const picked = ref<string[]>([])
const toggle = (id: string) => {
  picked.value = picked.value.includes(id) ? picked.value.filter(p => p !== id) : [...picked.value, id]
}
function match() {
  const list = rows.value.filter(row => picked.value.includes(row.source.id))
  void aligning.perform(gainActs(list.map(row => ({ source: row.source.id, by: apart(row) }))))
}
const choicesFor = (row: (typeof rows.value)[number]) =>
  site.positions.flatMap((p, n) => (row.levels[n] === null ? [] : [{ value: n, label: p.name }]))
const decibels = plainQuantity('dB', 0.5, 1)
const fall = ref(3)
</script>

<template>
  <p
    v-if="!rows.length"
    class="soft"
  >
    {{ phrase('align.noSourceMeasuredAlone') }}
  </p>
  <template v-else>
    <h2>{{ phrase('align.levelsAtTheirOwn') }}</h2>
    <div class="wish">
      <NumberField
        :label="phrase('common.from')"
        :name="phrase('align.levelsFrom')"
        :value="low"
        v-bind="quantities.frequency"
        @change="low = $event"
      />
      <NumberField
        :label="phrase('common.to')"
        :name="phrase('align.levelsTo')"
        :value="high"
        v-bind="quantities.frequency"
        @change="high = $event"
      />
      <ActionButton
        class="go"
        size="small"
        :label="phrase('align.matchTo', { name: reference?.source.name ?? '' })"
        :disabled="!picked.length || otherInput"
        @click="match"
      />
    </div>
    <FigureTable
      :label="phrase('align.levelsBySourceAnd')"
      :rows="rows"
      :columns="columns"
      :row-key="r => r.source.id"
      :row-attributes="r => ({ 'data-level': r.source.id })"
    >
      <template #source="{ row }">
        <CheckField
          v-if="row !== reference"
          :label="row.source.name"
          :value="picked.includes(row.source.id)"
          @change="toggle(row.source.id)"
        />
        <b v-else>{{ row.source.name }}</b>
      </template>
      <template
        v-for="n in site.positions.length"
        :key="n"
        #[`p${n-1}`]="{ row }"
      >
        <component :is="placeOf(row) === n - 1 ? 'b' : 'span'">
          {{ against(row.levels[n - 1] ?? null) }}
        </component>
      </template>
      <template #at="{ row }">
        <ChoiceField
          :label="phrase('align.matchedAtPosition')"
          :name="phrase('align.isMatchedAt', { name: row.source.name })"
          layout="bare"
          :value="placeOf(row)"
          :options="choicesFor(row)"
          @change="own[row.source.id] = $event"
        />
      </template>
    </FigureTable>
    <p
      v-if="otherInput"
      class="sentence warn"
    >
      {{ phrase('align.theyWereHeardBy') }}
    </p>
    <p class="soft small">
      {{ phrase('align.againstAtItsOwn', { name: reference?.source.name ?? '' }) }}
    </p>
    <h2>{{ phrase('align.frontToBack') }}</h2>
    <div class="wish">
      <NumberField
        :label="phrase('align.levelShadingFrontTo')"
        :value="fall"
        v-bind="decibels"
        @change="fall = $event"
      />
    </div>
    <ZoneShade
      :fall="fall"
      :zones="rows.filter(r => picked.includes(r.source.id) || r === reference).map(r => r.source.id)"
    />
  </template>
  <CommonTrim :measured="heard.drafted" />
</template>
