<script setup lang="ts">
import { bandTypes, type Band, type BandCapability } from '~~/core/rig'
import { octaves, tableQuantities } from './fields'
import type { Setting } from './useStrip'

/** The bands of a parametric EQ, one a line. */
defineProps<{ settings: readonly Setting[] }>()
const emit = defineEmits<{ change: [setting: Setting, change: Partial<Band>] }>()
const band = (s: Setting) => s.draft as Band
const types = (s: Setting) => (s.parameter.capability as unknown as BandCapability).types
const text = (event: Event) => (event.target as HTMLSelectElement).value as Band['type']
const isOn = (event: Event) => (event.target as HTMLInputElement).checked
</script>

<template>
  <table class="eq">
    <thead>
      <tr>
        <th><span class="hidden">On</span></th>
        <th>Kind</th>
        <th>Hz</th>
        <th>dB</th>
        <th>Q</th>
      </tr>
    </thead>
    <tbody
      v-for="s in settings"
      :key="s.parameter.path"
      :class="{ off: !band(s).on }"
      :data-band="s.parameter.index + 1"
    >
      <tr>
        <td>
          <input
            type="checkbox"
            :checked="band(s).on"
            :aria-label="`${s.parameter.short} on`"
            @change="emit('change', s, { on: isOn($event) })"
          >
        </td>
        <td>
          <select
            :value="band(s).type"
            :aria-label="`${s.parameter.short} kind`"
            @change="emit('change', s, { type: text($event) })"
          >
            <option
              v-for="t in types(s)"
              :key="t"
              :value="t"
            >
              {{ t }}
            </option>
          </select>
        </td>
        <td>
          <NumberField
            :label="`${s.parameter.short} frequency`"
            compact
            :value="band(s).frequency"
            v-bind="tableQuantities.frequency"
            @change="emit('change', s, { frequency: $event, on: true })"
          />
        </td>
        <td>
          <NumberField
            v-if="bandTypes[band(s).type].gain"
            :label="`${s.parameter.short} gain`"
            compact
            :value="band(s).gain"
            v-bind="tableQuantities.level"
            @change="emit('change', s, { gain: $event, on: true })"
          />
        </td>
        <td :title="octaves(band(s).q)">
          <NumberField
            :label="`${s.parameter.short} Q`"
            compact
            :value="band(s).q"
            v-bind="tableQuantities.q"
            @change="emit('change', s, { q: $event, on: true })"
          />
        </td>
      </tr>
      <tr v-if="s.differs">
        <td />
        <td
          colspan="4"
          class="held small"
        >
          in device {{ s.parameter.kind.show(s.held, s.parameter.capability) }}
        </td>
      </tr>
    </tbody>
  </table>
  <p class="soft small">
    Arrow keys nudge; Shift for ten times. Q also takes a bandwidth: 0.33 oct.
  </p>
</template>

<style scoped>
.held {
  color: var(--warn);
}
.eq {
  border-collapse: collapse;
  table-layout: fixed;
  width: 100%;
}
.eq th {
  text-align: left;
  font-weight: 500;
  font-size: 0.84rem;
  color: var(--ink-soft);
}
.eq td,
.eq th {
  padding: 1px 2px;
}
.eq th:nth-child(1) {
  width: 22px;
}
.eq th:nth-child(2) {
  width: 94px;
}
.eq th:nth-child(3) {
  width: 66px;
}
.off td:not(:first-child) {
  opacity: 0.62;
}
.eq :deep(input.num) {
  padding: 0 0.3rem;
  font-size: 0.92rem;
}
.hidden {
  position: absolute;
  clip-path: inset(50%);
}
p {
  margin: 0;
}
</style>
