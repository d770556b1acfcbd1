<script setup lang="ts">
import { tableQuantities } from './fields'
import type { SettingOf } from '~/document/useStrip'
import { phrase } from '~/parts/phrase'

/** A graphic EQ or a tone control: one level for each of its bands. */
const props = defineProps<{ setting: SettingOf<'graphic'> }>()
defineOptions({ inheritAttrs: false })
const emit = defineEmits<{ change: [value: number[]] }>()
const levels = computed(() => props.setting.draft)
const held = computed(() => props.setting.held as number[] | null)
const capability = computed(() => props.setting.parameter.capability)
const name = computed(() => props.setting.parameter.short)
const set = (k: number, level: number) => emit('change', levels.value.with(k, level))
</script>

<template>
  <div class="graphic">
    <div class="bands">
      <NumberField
        v-for="(f, k) in capability.frequencies"
        :key="f"
        :label="`${tableQuantities.frequency.show(f)}`"
        :value="levels[k] ?? 0"
        :held="held?.[k] ?? null"
        :by="setting.by"
        v-bind="tableQuantities.level"
        @change="set(k, $event)"
      />
    </div>
    <div class="row">
      <span class="small soft">{{ phrase('shape.dbAtHz') }}</span>
      <ActionButton
        size="small"
        severity="secondary"
        :label="phrase('shape.flat', { name })"
        :disabled="levels.every(level => level === 0)"
        @click="emit('change', levels.map(() => 0))"
      />
    </div>
  </div>
</template>

<style scoped>
.graphic {
  display: grid;
  gap: 0.4rem;
}
.bands {
  display: grid;
  grid-template-columns: repeat(5, minmax(0, 1fr));
  gap: 0.3rem;
}
</style>
