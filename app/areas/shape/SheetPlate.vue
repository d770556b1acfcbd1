<script setup lang="ts">
import { standardGrid, widthConventions } from '~~/core/dsp'
import type { WidthUnit } from '~~/core/documents'
import { plainQuantity } from '~~/core/units'
import type { MenuAction } from '~/parts/menus'
import { stripOf } from '~/charts/strip'
import { useSheetForm } from './useSheetForm'
import { useView } from '~/document/view'
import { choicesOf } from '~/parts/choices'
import CurveChart from '~/charts/CurveChart.vue'
import { phrase } from '~/parts/phrase'
import { labelOf } from './sheetWords'

/** A loudspeaker's data sheet: typed in from paper by keyboard alone, with its picture and its slips beside it. */
const view = useView()
const form = useSheetForm()
const cursor = ref<number | null>(null)
const table = useTemplateRef('table')
const names: Record<WidthUnit, string> = {
  'q': 'Q',
  'half-gain': phrase('shape.octavesBetweenThePoints'),
  'three-db': phrase('shape.octavesBetweenThePointsDb'),
  'resonance': phrase('shape.octavesOfTheResonance'),
  'half-gain-analogue': phrase('shape.octavesAtHalfGain'),
  'three-db-analogue': phrase('shape.octavesDbFromThe'),
  'resonance-analogue': phrase('shape.octavesOfTheResonanceOf'),
  'cookbook': phrase('shape.octavesByTheAudio'),
}
const widths = choicesOf(['q', ...widthConventions] as WidthUnit[], id => names[id])
const degrees = plainQuantity('°', 5, 0)
const columns = computed(() => [
  { id: 'label', name: '', silent: true, width: '190px' },
  ...(form.sheet.value?.bands ?? []).map((b, n) => ({ id: `band-${n}`, name: b.name })),
])
const inputAt = (row: string | undefined, band: number) =>
  table.value?.querySelectorAll<HTMLInputElement>(`[data-row="${row}"] input`)[band]
/** Enter goes down the column, and on to the top of the next: one key a value. No filter: on behind the filters. */
async function next(event: KeyboardEvent) {
  const own = event.target as HTMLInputElement
  const row = (own.closest('[data-row]') as HTMLElement | null)?.dataset.row
  if (event.key !== 'Enter' || !row) return
  event.preventDefault()
  event.stopPropagation()
  const band = [...table.value!.querySelectorAll(`[data-row="${row}"] input`)].indexOf(own)
  const skips = row.startsWith('eq-') && !own.value.trim()
  own.blur()
  await nextTick() // a filter that was typed makes room for another
  const ids = form.rows.value.map(r => r.id)
  const below = skips ? 'limiter' : ids[ids.indexOf(row) + 1]
  const to = below ? inputAt(below, band) : inputAt(ids[0], band + 1)
  to?.focus()
  to?.select()
}
const actions = computed<MenuAction[]>(() => [
  { name: phrase('shape.newOneBand'), run: () => form.start(1) },
  { name: phrase('shape.newTwoBands'), run: () => form.start(2) },
  { name: phrase('shape.newThreeBands'), run: () => form.start(3) },
  { name: phrase('shape.newFourBands'), run: () => form.start(4) },
  { name: phrase('shape.duplicateSheet'), run: () => form.copy(), disabled: !form.sheet.value },
  { name: phrase('shape.saveAsTextTable'), run: () => form.saveAs('txt'), disabled: !form.sheet.value },
  { name: phrase('shape.saveAsJson'), run: () => form.saveAs('json'), disabled: !form.sheet.value },
  { name: phrase('common.delete'), run: () => void form.remove(), disabled: !form.sheet.value || form.isNew.value },
])
const strip = computed(() => stripOf(form.traces.value.map(t => t.name)))
const x = { kind: 'frequency' as const, min: 18, max: 20_500 }
</script>

<template>
  <section
    class="plate sheet"
    :aria-label="phrase('common.plate')"
    data-testid="sheet-plate"
  >
    <header class="row">
      <ChoiceField
        class="kind"
        :label="phrase('shape.loudspeakerSheet')"
        layout="bare"
        :value="view.sheet"
        :options="form.choices.value"
        @change="view.sheet = $event"
      />
      <ActionMenu
        :label="phrase('shape.sheets')"
        :actions="actions"
      />
      <FileField
        :label="phrase('shape.fromAFile')"
        accept=".txt,.json,.csv"
        @pick="form.read($event[0]!)"
      />
      <span class="push" />
      <ActionButton
        v-if="form.changed.value"
        size="small"
        severity="secondary"
        :label="phrase('shape.revert')"
        @click="form.undo()"
      />
      <ActionButton
        size="small"
        :label="phrase('shape.saveSheet')"
        :disabled="!form.changed.value"
        @click="form.keep()"
      />
      <ActionButton
        size="small"
        text
        :label="phrase('common.charts')"
        @click="view.plate = null"
      />
    </header>
    <div
      v-if="form.sheet.value"
      class="halves"
    >
      <div class="picture">
        <div class="chart">
          <b class="small">{{ phrase('shape.whatTheSettingsDo') }}</b>
          <CurveChart
            :name="phrase('shape.whatTheSheetsSettings')"
            :unit="phrase('shape.dbOfTheSettings')"
            :min="-30"
            :max="12"
            :step="6"
            :traces="form.traces.value"
            :xs="standardGrid"
            :x="x"
            :cursor="cursor"
            :strip="strip"
            @cursor="cursor = $event"
          />
        </div>
        <div class="told">
        <div data-testid="sheet-checks">
          <p
            v-for="c in form.checks.value"
            :key="c"
            class="sentence warn"
          >
            {{ c }}
          </p>
          <p
            v-if="!form.checks.value.length"
            class="soft small"
          >
            {{ phrase('shape.noProblemsFound') }}
          </p>
        </div>
        <div data-testid="sheet-reach">
          <p v-if="form.reached.value.length">
            {{ phrase('shape.keepingItSetsOutput', { reached: form.reached.value.length }) }}
            <span
              v-for="r in form.reached.value"
              :key="r"
              class="reach"
            >{{ r }}</span>
          </p>
          <p
            v-else
            class="soft small"
          >
            {{ phrase('shape.noOutputUsesThis') }}
          </p>
        </div>
        </div>
      </div>
      <div
        ref="table"
        class="form"
        @keydown.capture="next"
      >
        <div class="head">
          <TextField
            :key="form.sheet.value.id"
            :label="phrase('common.name')"
            :value="form.sheet.value.name"
            :maxlength="80"
            @change="form.rename"
          />
          <NumberField
            :label="phrase('shape.coverageHorizontal')"
            :value="form.sheet.value.coverage?.across ?? 90"
            v-bind="degrees"
            @change="form.cover($event, form.sheet.value!.coverage?.up ?? 60)"
          />
          <NumberField
            :label="phrase('shape.vertical')"
            :value="form.sheet.value.coverage?.up ?? 60"
            v-bind="degrees"
            @change="form.cover(form.sheet.value!.coverage?.across ?? 90, $event)"
          />
        <ChoiceField
          v-model:value="form.width.value"
          :label="phrase('shape.bandwidthConvention')"
          :options="widths"
        />
        </div>
        <FigureTable
          :label="phrase('shape.valuesOfTheSheet')"
          :rows="form.rows.value"
          :columns="columns"
          :row-key="r => r.id"
          :row-attributes="r => ({ 'data-row': r.id })"
        >
          <template #label="{ row }">
            <span :title="phrase('shape.forInstance', { example: row.example })">{{ labelOf(row) }}</span>
          </template>
          <template
            v-for="(b, n) in form.sheet.value.bands"
            :key="b.id"
            #[`band-${n}`]="{ row }"
          >
            <TextField
              layout="bare"
              :label="`${b.name}: ${labelOf(row)}`"
              :value="row.show(b)"
              :placeholder="phrase('shape.suchAs', { example: row.example.split(/[ ,;]/)[0]! })"
              :check="text => form.check(row, n, text)"
              @change="form.set(row, n, $event)"
            />
          </template>
        </FigureTable>
        <p class="soft small">
          {{ phrase('shape.passLr24FilterLimiter') }}
        </p>
      </div>
    </div>
    <p
      v-else
      class="soft"
    >
      {{ phrase('shape.noSheetYetCreate') }}
    </p>
  </section>
</template>

<style scoped>
.plate {
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(0, 1fr);
  gap: 0.5rem;
  padding: 0.6rem 0.8rem;
  background: var(--paper);
  min-height: 0;
}
.kind {
  width: 215px;
}
.push {
  flex: 1;
}
header :deep(button) {
  white-space: nowrap;
}
.halves {
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(0, 1fr);
  gap: 0.6rem;
  min-height: 0;
}
.picture {
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) minmax(0, 1fr);
  gap: 0 0.8rem;
}
.told {
  overflow-y: auto;
  max-height: 190px;
}
.form {
  overflow-y: auto;
  min-height: 0;
  display: grid;
  gap: 0.4rem;
  align-content: start;
  --cell-y: 1px;
}
.form :deep(table) {
  --field-height: 28px;
}
.form :deep(td) {
  vertical-align: middle;
}
.head {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 96px 96px minmax(0, 1.4fr);
  gap: 0.5rem;
}
.chart {
  height: 205px;
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
}
header :deep(.file span) {
  white-space: nowrap;
}
.reach {
  display: block;
}
p {
  margin: 0 0 0.3rem;
}
</style>
