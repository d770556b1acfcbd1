<script setup lang="ts">
import type { Level } from '~~/core/measure'
import { showNumber } from '~~/core/units'

const props = defineProps<{ name: string, level: Level, clipped: boolean }>()
const emit = defineEmits<{ reset: [] }>()
const at = (db: number) => `${Math.max(0, Math.min(100, (db + 80) / 80 * 100))}%`
const text = computed(() => Number.isFinite(props.level.rms) ? `${showNumber(props.level.rms, 1)} dBFS` : 'silent')
</script>

<template>
  <div class="meter">
    <div class="row apart small"><span>{{ name }}</span><span><button v-if="clipped" class="plain clip" title="It has clipped. Click to clear the mark." @click="emit('reset')">clipped</button> <span class="num">{{ text }}</span></span></div>
    <div class="bar" role="meter" :aria-label="`${name} level`" aria-valuemin="-80" aria-valuemax="0" :aria-valuenow="Number.isFinite(level.rms) ? Math.round(level.rms) : -80">
      <i :style="{ width: at(level.rms) }" /><b :style="{ left: at(level.peak) }" />
    </div>
  </div>
</template>

<style scoped>
.bar { position: relative; height: 9px; background: var(--well); border: 1px solid var(--rule); }
i { position: absolute; inset: 0 auto 0 0; background: var(--accent); opacity: 0.75; }
b { position: absolute; top: -2px; bottom: -2px; width: 2px; background: var(--ink); }
.clip { color: var(--error); font-weight: 700; padding: 0 0.3rem; border: 1px solid var(--error); }
</style>
