<script setup lang="ts">
import { speedOfSound } from '~~/core/acoustics'
import type { BlockCapability, Field } from '~~/core/rig'
import { quantities, type Parsed, type QuantityId } from '~~/core/units'
import { isKind, type Setting } from '~/document/useStrip'
import { useSite } from '~/document/site'
import { phrase } from '~/parts/phrase'

/** Whatever a block says of its own value, as fields: for every kind that needs no layout of its own. */
const props = defineProps<{
  setting: Setting
  sampleRate: number
  /** How a field reads what is typed, where the place knows more units. */
  reads?: Record<string, (text: string) => Parsed>
}>()
defineOptions({ inheritAttrs: false })
const emit = defineEmits<{ change: [value: unknown] }>()
const site = useSite()

interface Shown {
  key: string
  label: string
  field: Field<BlockCapability>
  value: unknown
  held: unknown
}
const part = (value: unknown, key: string) => (key ? (value as Record<string, unknown> | null)?.[key] : value)
const fields = computed<Shown[]>(() => {
  const { parameter, draft, held } = props.setting
  return Object.entries(parameter.kind.fields).map(([key, field]) => ({
    key,
    label: key ? `${parameter.short} ${phrase(field.name)}` : parameter.short,
    field,
    value: part(draft, key),
    held: part(held, key),
  }))
})
const set = (key: string, value: unknown) =>
  emit('change', key ? { ...(props.setting.draft as object), [key]: value } : value)
const context = computed(() => ({
  speedOfSound: speedOfSound(site.plan.air),
  sampleRate: props.sampleRate,
}))
const quantityOf = (key: string, id: QuantityId) => ({
  ...quantities[id],
  parse: props.reads?.[key] ?? ((text: string) => quantities[id].parse(text, context.value)),
})
const picked = ({ value }: Shown) => value as string | number
const numberOf = (value: unknown) => (typeof value === 'number' ? value : null)
const metres = (seconds: unknown) => ((seconds as number) * context.value.speedOfSound).toFixed(2)
</script>

<template>
  <div
    v-for="(f, k) in fields"
    :key="f.key"
    class="block"
  >
    <template v-if="f.field.kind === 'number' && f.value !== null">
      <NumberField
        :label="f.label"
        :value="numberOf(f.value)!"
        :held="numberOf(f.held)"
        :by="setting.by"
        v-bind="quantityOf(f.key, f.field.quantity)"
        @change="set(f.key, $event)"
      />
      <span
        v-if="isKind(setting, 'delay')"
        class="soft small"
      >{{ phrase('charts.mAtC', { metres: metres(f.value), temperature: site.plan.air.temperature }) }}</span>
    </template>
    <CheckField
      v-else-if="f.field.kind === 'switch'"
      :label="f.label"
      :value="f.value as boolean"
      :by="setting.by"
      @change="set(f.key, $event)"
    />
    <ChoiceField
      v-else-if="f.field.kind === 'choice'"
      :label="f.label"
      :value="picked(f)"
      :by="setting.by"
      :options="f.field.options(setting.parameter.capability).map(o => ({ value: o.id, label: o.name }))"
      @change="set(f.key, $event)"
    />
    <span
      v-if="setting.differs && f.field.kind !== 'number'"
      class="held small"
    >{{
      phrase('common.inDevice', {
        held: setting.parameter.kind.show(setting.held, setting.parameter.capability),
      })
    }}</span>
    <span
      v-if="setting.by && k === fields.length - 1"
      class="soft small"
      data-testid="changed-by"
    >{{ phrase('common.changedBy', { by: setting.by }) }}</span>
  </div>
</template>

<style scoped>
.block {
  display: grid;
  align-content: start;
  min-width: 0;
}
.held {
  color: var(--warn);
}
</style>
