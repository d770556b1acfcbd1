<script setup lang="ts">
import { families, type Family } from '~~/core/dsp'
import { familyName, type Pass, type PassCapability } from '~~/core/rig'
import { quantities } from '~~/core/units'
import type { Setting } from './useStrip'

/** A high- or low-pass: its frequency, and family and slope as one choice. */
const props = defineProps<{ setting: Setting }>()
const emit = defineEmits<{ change: [change: Partial<Pass>] }>()

const label = computed(() => props.setting.parameter.short)
const pass = computed(() => props.setting.draft as Pass)
const kinds = computed(() => {
  const { orders } = props.setting.parameter.capability as unknown as PassCapability
  return families.flatMap(family => (orders[family] ?? []).map(order => ({
    id: `${family} ${order}`,
    name: `${familyName(family)} ${6 * order} dB/oct`,
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
      <label class="row"><input
        type="checkbox"
        :checked="pass.on"
        :aria-label="`${label} on`"
        @change="emit('change', { on: ($event.target as HTMLInputElement).checked })"
      > <b>{{ label }}</b></label>
    </legend>
    <div
      class="grid"
      :class="{ off: !pass.on }"
    >
      <NumberField
        :label="`${label} frequency`"
        :value="pass.frequency"
        v-bind="quantities.frequency"
        compact
        @change="emit('change', { frequency: $event, on: true })"
      />
      <select
        :value="`${pass.family} ${pass.order}`"
        :aria-label="`${label} family and slope`"
        @change="setKind(($event.target as HTMLSelectElement).value)"
      >
        <option
          v-for="k in kinds"
          :key="k.id"
          :value="k.id"
        >
          {{ k.name }}
        </option>
      </select>
    </div>
    <span
      v-if="setting.differs"
      class="held small"
    >in device {{ setting.parameter.kind.show(setting.held, setting.parameter.capability) }}</span>
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
.off {
  opacity: 0.6;
}
.held {
  color: var(--warn);
}
</style>
