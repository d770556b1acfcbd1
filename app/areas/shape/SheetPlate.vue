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

/** A loudspeaker's data sheet: typed in from paper by keyboard alone, with its picture and its slips beside it. */
const view = useView()
const form = useSheetForm()
const cursor = ref<number | null>(null)
const table = useTemplateRef('table')
const names: Record<WidthUnit, string> = {
  'q': 'Q',
  'half-gain': 'octaves between the points of half gain',
  'three-db': 'octaves between the points 3 dB from the top',
  'resonance': 'octaves of the resonance, the same at every gain',
  'half-gain-analogue': 'octaves at half gain, of the analogue filter',
  'three-db-analogue': 'octaves 3 dB from the top, of the analogue filter',
  'resonance-analogue': 'octaves of the resonance, of the analogue filter',
  'cookbook': 'octaves by the Audio EQ Cookbook',
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
  { name: 'New, one band', run: () => form.start(1) },
  { name: 'New, two bands', run: () => form.start(2) },
  { name: 'New, three bands', run: () => form.start(3) },
  { name: 'New, four bands', run: () => form.start(4) },
  { name: 'Duplicate sheet', run: () => form.copy(), disabled: !form.sheet.value },
  { name: 'Save as text table', run: () => form.saveAs('txt'), disabled: !form.sheet.value },
  { name: 'Save as JSON', run: () => form.saveAs('json'), disabled: !form.sheet.value },
  { name: 'Delete', run: () => void form.remove(), disabled: !form.sheet.value || form.isNew.value },
])
const strip = computed(() => stripOf(form.traces.value.map(t => t.name)))
const x = { kind: 'frequency' as const, min: 18, max: 20_500 }
</script>

<template>
  <section
    class="plate sheet"
    aria-label="Plate"
    data-testid="sheet-plate"
  >
    <header class="row">
      <ChoiceField
        class="kind"
        label="Loudspeaker sheet"
        layout="bare"
        :value="view.sheet"
        :options="form.choices.value"
        @change="view.sheet = $event"
      />
      <ActionMenu
        label="Sheets"
        :actions="actions"
      />
      <FileField
        label="From a file"
        accept=".txt,.json,.csv"
        @pick="form.read($event[0]!)"
      />
      <span class="push" />
      <ActionButton
        v-if="form.changed.value"
        size="small"
        severity="secondary"
        label="Revert"
        @click="form.undo()"
      />
      <ActionButton
        size="small"
        label="Save sheet"
        :disabled="!form.changed.value"
        @click="form.keep()"
      />
      <ActionButton
        size="small"
        text
        label="Charts"
        @click="view.plate = null"
      />
    </header>
    <div
      v-if="form.sheet.value"
      class="halves"
    >
      <div class="picture">
        <div class="chart">
          <b class="small">What the settings do, dB</b>
          <CurveChart
            name="What the sheet’s settings do, each band and together"
            unit="dB, of the settings"
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
            No problems found.
          </p>
        </div>
        <div data-testid="sheet-reach">
          <p v-if="form.reached.value.length">
            Keeping it sets {{ form.reached.value.length }}
            {{ form.reached.value.length === 1 ? 'output' : 'outputs' }} that follow{{
              form.reached.value.length === 1 ? 's' : '' }} it:
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
            No output uses this sheet yet: choose it in the path ribbon.
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
            label="Name"
            :value="form.sheet.value.name"
            :maxlength="80"
            @change="form.rename"
          />
          <NumberField
            label="Coverage, horizontal"
            :value="form.sheet.value.coverage?.across ?? 90"
            v-bind="degrees"
            @change="form.cover($event, form.sheet.value!.coverage?.up ?? 60)"
          />
          <NumberField
            label="vertical"
            :value="form.sheet.value.coverage?.up ?? 60"
            v-bind="degrees"
            @change="form.cover(form.sheet.value!.coverage?.across ?? 90, $event)"
          />
        <ChoiceField
          v-model:value="form.width.value"
          label="Bandwidth convention"
          :options="widths"
        />
        </div>
        <FigureTable
          label="Values of the sheet"
          :rows="form.rows.value"
          :columns="columns"
          :row-key="r => r.id"
          :row-attributes="r => ({ 'data-row': r.id })"
        >
          <template #label="{ row }">
            <span :title="`For instance ${row.example}`">{{ row.label }}</span>
          </template>
          <template
            v-for="(b, n) in form.sheet.value.bands"
            :key="b.id"
            #[`band-${n}`]="{ row }"
          >
            <TextField
              layout="bare"
              :label="`${b.name}: ${row.label}`"
              :value="row.show(b)"
              :placeholder="`such as ${row.example.split(/[ ,;]/)[0]}`"
              :check="text => form.check(row, n, text)"
              @change="form.set(row, n, $event)"
            />
          </template>
        </FigureTable>
        <p class="soft small">
          Pass: LR24 1400. Filter: 160 -3 1.4. Limiter: rms 62 50 500.
        </p>
      </div>
    </div>
    <p
      v-else
      class="soft"
    >
      No sheet yet: create one under Sheets, or import a file.
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
