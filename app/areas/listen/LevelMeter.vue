<script setup lang="ts">
import type { Tap } from '~~/core/measure'
import { showNumber } from '~~/core/units'
import { useListen } from '~/sound/listen'
import { phrase } from '~/parts/phrase'

/** Peak and RMS of a channel, with a mark that stays once it has clipped. */
const props = defineProps<{
  name: string
  tap: Tap
  /** Without its name: where that stands beside it already. */ bare?: boolean
}>()
const listen = useListen()
const level = computed(() => listen.meters.get(props.tap) ?? { peak: -Infinity, rms: -Infinity })
const clipped = computed(() => listen.clipped.includes(props.tap))
const at = (db: number) => `${Math.max(0, Math.min(100, ((db + 80) / 80) * 100))}%`
const text = computed(() => {
  if (Number.isFinite(level.value.rms)) return `${showNumber(level.value.rms, 1)} dBFS`
  return listen.running ? phrase('frame.silent') : phrase('common.notListening')
})
</script>

<template>
  <div
    class="meter"
    :class="{ bare }"
  >
    <div class="row apart small">
      <span v-if="!bare">{{ name }}</span><span class="value"><button
                                                                v-if="clipped"
                                                                class="plain clip"
                                                                :title="phrase('listen.itHasClippedClick')"
      @click="listen.clipped = listen.clipped.filter(t => t !== tap)"
                                                              >
                                                                {{ phrase('listen.clipped') }}
                                                              </button>
        <span
          class="num"
          :title="phrase('listen.rmsPeak', {
            peak: Number.isFinite(level.peak) ? `${showNumber(level.peak, 1)} dBFS` : phrase('frame.silent'),
          })"
        >{{ text }}</span></span>
    </div>
    <div
      class="bar"
      role="meter"
      :aria-label="phrase('listen.level', { name })"
      aria-valuemin="-80"
      aria-valuemax="0"
      :aria-valuenow="Number.isFinite(level.rms) ? Math.round(level.rms) : -80"
    >
      <i :style="{ width: at(level.rms) }" /><b :style="{ left: at(level.peak) }" />
    </div>
  </div>
</template>

<style scoped>
.bar {
  position: relative;
  height: 9px;
  background: var(--well);
  border: 1px solid var(--rule);
  overflow: hidden;
}
.bare {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0.5rem;
  align-items: center;
}
.bare .row {
  order: 2;
  min-width: 84px;
  justify-content: flex-end;
}
i {
  position: absolute;
  inset: 0 auto 0 0;
  background: var(--accent);
  opacity: 0.75;
}
b {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 2px;
  background: var(--ink);
}
.clip {
  color: var(--error);
  font-weight: 700;
  padding: 0 0.3rem;
  border: 1px solid var(--error);
}
.value {
  margin-left: auto;
  white-space: nowrap;
}
</style>
