<script setup lang="ts">
import { plainQuantity, quantities } from '~~/core/units'
import ChoiceField from '~/parts/ChoiceField.vue'
import SegmentField from '~/parts/SegmentField.vue'
import type { Choice } from '~/parts/choices'
import { smoothingChoices } from './kinds/fields'
import { chartKinds, type ChartKind } from './registry'
import type { ChartSettings } from '~/document/chartSettings'
import { frequencyWindows, type SettingField } from './settings'
import { useCharts } from './useCharts'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

/** How a chart is shown, opened from the chart itself. */
const props = defineProps<{ kind: ChartKind, drawable: boolean }>()
const emit = defineEmits<{ picture: [kind: 'svg' | 'png'] }>()
const view = useView()
const { settings: s } = storeToRefs(useCharts())
const definition = computed(() => chartKinds[props.kind])
const smoothed = computed(() => definition.value.byBlocks && props.kind !== 'coherence')

const windowChoices = frequencyWindows.map(([name, low, high]) =>
  ({ value: name as string, label: phrase('charts.toHz', { name, low, high }) }))
const windowNow = computed(
  () => frequencyWindows.find(w => w[1] === s.value.low && w[2] === s.value.high)?.[0] ?? '',
)
function chooseWindow(name: string) {
  const [, low, high] = frequencyWindows.find(w => w[0] === name)!
  Object.assign(s.value, { low, high })
}
type Plain = string | number | boolean | null
const valueOf = (field: { key: keyof ChartSettings }) => s.value[field.key] as Plain
const set = (field: { key: keyof ChartSettings }, value: unknown) => Object.assign(s.value, { [field.key]: value })
const optionsOf = (field: SettingField) => ('options' in field ? field.options : []) as readonly Choice<string>[]
</script>

<template>
  <div
    class="settings"
    role="group"
    :aria-label="phrase('charts.chartSettings')"
  >
    <template v-if="definition.over === 'frequency'">
      <ChoiceField
        :label="phrase('charts.frequencies')"
        layout="beside"
        :value="windowNow"
        :options="windowChoices"
        @change="chooseWindow"
      />
      <div class="two">
        <NumberField
          :label="phrase('common.from')"
          :value="s.low"
          v-bind="quantities.frequency"
          @change="s.low = Math.min(Math.max(1, $event), s.high / 2)"
        />
        <NumberField
          :label="phrase('common.to')"
          :value="s.high"
          v-bind="quantities.frequency"
          @change="s.high = Math.max(Math.min(48000, $event), s.low * 2)"
        />
      </div>
    </template>
    <ChoiceField
      v-if="smoothed"
      v-model:value="view.smoothing"
      :label="phrase('common.smoothing')"
      :name="phrase('charts.smoothingOfTheChart')"
      layout="beside"
      :options="smoothingChoices"
    />
    <template
      v-for="f in definition.settings"
      :key="f.label"
    >
      <CheckField
        v-if="f.kind === 'check'"
        :label="f.label"
        :title="f.title"
        :value="s[f.key]"
        @change="set(f, $event)"
      />
      <NumberField
        v-else-if="f.kind === 'number'"
        :label="f.label"
        :value="f.get(s)"
        v-bind="plainQuantity(f.unit, f.step, f.places)"
        @change="f.set(s, $event)"
      />
      <component
        :is="f.kind === 'segment' ? SegmentField : ChoiceField"
        v-else
        :label="f.label"
        :name="f.name"
        layout="beside"
        :value="valueOf(f)"
        :options="optionsOf(f)"
        @change="set(f, $event)"
      />
    </template>
    <template v-if="definition.hasLine">
      <CheckField
        :label="phrase('charts.referenceLine')"
        :value="s.line !== null"
        @change="s.line = $event ? 0 : null"
      />
      <NumberField
        v-if="s.line !== null"
        :label="phrase('charts.referenceLineAt')"
        :value="s.line"
        v-bind="quantities.level"
        @change="s.line = $event"
      />
    </template>
    <component
      :is="definition.more"
      v-if="definition.more"
    />
    <div
      v-if="drawable"
      class="row"
    >
      <span class="soft">{{ phrase('charts.saveAs') }}</span><ActionButton
        size="small"
        severity="secondary"
        :label="phrase('charts.png')"
        @click="emit('picture', 'png')"
      /><ActionButton
        size="small"
        severity="secondary"
        :label="phrase('charts.svg')"
        @click="emit('picture', 'svg')"
      />
    </div>
  </div>
</template>

<style scoped>
.settings {
  width: 270px;
  max-height: min(70vh, 520px);
  overflow-y: auto;
  display: grid;
  gap: 0.45rem;
  font-size: 0.92rem;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
}
</style>
