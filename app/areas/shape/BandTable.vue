<script setup lang="ts">
import { filterKinds } from '~~/core/dsp'
import type { Band } from '~~/core/rig'
import { octaves, tableQuantities } from './fields'
import type { SettingOf } from '~/document/useStrip'
import { choicesOf } from '~/parts/choices'
import { phrase } from '~/parts/phrase'

/** The bands of a parametric EQ, one a line. */
defineProps<{ settings: readonly SettingOf<'band'>[] }>()
const emit = defineEmits<{ change: [setting: SettingOf<'band'>, change: Partial<Band>] }>()
const band = (s: SettingOf<'band'>) => s.draft
const types = (s: SettingOf<'band'>) => s.parameter.capability.types
const columns = [
  { id: 'on', name: phrase('shape.on'), silent: true, width: '22px' },
  { id: 'kind', name: phrase('common.kind'), width: '94px' },
  { id: 'frequency', name: 'Hz', width: '66px' },
  { id: 'gain', name: 'dB' },
  { id: 'q', name: 'Q' },
]
/** What the device holds where that differs, and who else made it so. */
const under = (s: SettingOf<'band'>) => [
  s.differs ? phrase('common.inDevice', { held: s.parameter.kind.show(s.held, s.parameter.capability) }) : '',
  s.by ? phrase('common.changedBy', { by: s.by }) : '',
].filter(Boolean).join('; ') || null
</script>

<template>
  <FigureTable
    class="eq"
    :label="phrase('shape.eqBands')"
    :rows="settings"
    :columns="columns"
    :row-key="s => s.parameter.path"
    :row-class="s => ({ off: !band(s).on })"
    :row-attributes="s => ({ 'data-band': s.parameter.index + 1 })"
    :under="under"
    still
  >
    <template #on="{ row: s }">
      <CheckField
        bare
        :label="phrase('shape.on2', { short: s.parameter.short })"
        :value="band(s).on"
        :by="s.by"
        @change="emit('change', s, { on: $event })"
      />
    </template>
    <template #kind="{ row: s }">
      <ChoiceField
        layout="bare"
        :label="phrase('shape.kind', { short: s.parameter.short })"
        :value="band(s).type"
        :by="s.by"
        :options="choicesOf(types(s))"
        @change="emit('change', s, { type: $event, on: true })"
      />
    </template>
    <template #frequency="{ row: s }">
      <NumberField
        :label="phrase('shape.frequency', { short: s.parameter.short })"
        layout="bare"
        :value="band(s).frequency"
        :by="s.by"
        v-bind="tableQuantities.frequency"
        @change="emit('change', s, { frequency: $event, on: true })"
      />
    </template>
    <template #gain="{ row: s }">
      <NumberField
        v-if="filterKinds[band(s).type].gain"
        :label="phrase('shape.gain', { short: s.parameter.short })"
        layout="bare"
        :value="band(s).gain"
        :by="s.by"
        v-bind="tableQuantities.level"
        @change="emit('change', s, { gain: $event, on: true })"
      />
    </template>
    <template #q="{ row: s }">
      <NumberField
        v-if="filterKinds[band(s).type].q"
        :label="`${s.parameter.short} Q`"
        layout="bare"
        :title="octaves(band(s).q)"
        :value="band(s).q"
        :by="s.by"
        v-bind="tableQuantities.q"
        @change="emit('change', s, { q: $event, on: true })"
      />
    </template>
  </FigureTable>
  <p class="soft small">
    {{ phrase('shape.arrowKeysNudgeShift') }}
  </p>
</template>

<style scoped>
.eq {
  --cell-y: 1px;
  table-layout: fixed;
}
.eq :deep(:is(td, th)) {
  padding-right: 4px;
  border: 0;
}
.eq :deep(input.num) {
  padding: 0 0.3rem;
  font-size: 0.92rem;
}
p {
  margin: 0;
}
</style>
