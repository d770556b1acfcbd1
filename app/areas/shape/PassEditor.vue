<script setup lang="ts">
import { families, type Family } from '~~/core/dsp'
import { familyName, type Pass } from '~~/core/rig'
import { quantities } from '~~/core/units'
import { useShaping } from '~/document/shaping'
import type { SettingOf } from '~/document/useStrip'
import { phrase } from '~/parts/phrase'

/** A high- or low-pass: its frequency, and family and slope as one choice. */
const props = defineProps<{ setting: SettingOf<'pass'>, twin?: string | null }>()
const shaping = useShaping()
const emit = defineEmits<{ change: [change: Partial<Pass>] }>()

const label = computed(() => props.setting.parameter.short)
const pass = computed(() => props.setting.draft)
const kinds = computed(() => {
  const capability = props.setting.parameter.capability
  const { orders } = capability
  return families.flatMap(family => (orders[family] ?? []).map(order => ({
    value: `${family} ${order}`,
    label: `${familyName(family, capability)} ${6 * order} dB/oct`,
  })))
})
function setKind(id: string) {
  const [family, order] = id.split(' ') as [Family, string]
  emit('change', { family, order: Number(order), on: true })
}
</script>

<template>
  <fieldset class="pass">
    <legend>
      <CheckField
        :label="phrase('shape.on3', { label })"
        :value="pass.on"
        :by="setting.by"
        @change="emit('change', { on: $event })"
      >
        <b>{{ label }}</b>
      </CheckField>
    </legend>
    <div
      class="grid"
      :class="{ off: !pass.on }"
    >
      <NumberField
        :label="phrase('shape.frequency2', { label })"
        :value="pass.frequency"
        :by="setting.by"
        v-bind="quantities.frequency"
        layout="bare"
        @change="emit('change', { frequency: $event, on: true })"
      />
      <ChoiceField
        :label="phrase('shape.familyAndSlope', { label })"
        layout="bare"
        :value="`${pass.family} ${pass.order}`"
        :by="setting.by"
        :options="kinds"
        @change="setKind"
      />
    </div>
    <CheckField
      v-if="twin"
      v-model:value="shaping.linked"
      :label="phrase('shape.linkedCrossoverWith', { twin })"
    />
    <span
      v-if="setting.differs"
      class="held small"
    >{{
      phrase('common.inDevice', {
        held: setting.parameter.kind.show(setting.held, setting.parameter.capability),
      })
    }}</span>
  </fieldset>
</template>

<style scoped>
.pass {
  border: 0;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 0.2rem;
  min-width: 0;
}
.grid {
  display: grid;
  grid-template-columns: 92px 1fr;
  gap: 0.4rem;
}
.held {
  color: var(--warn);
}
</style>
