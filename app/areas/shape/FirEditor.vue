<script setup lang="ts">
import { tapsDelay } from '~~/core/dsp'
import { readTaps, writeTaps } from '~~/core/formats/tapsText'
import { readWav } from '~~/core/formats/wav'
import type { Fir } from '~~/core/rig'
import { showDelay, showFrequency } from '~~/core/units'
import { download } from '~/parts/download'
import type { SettingOf } from '~/document/useStrip'
import { useNotices } from '~/parts/notices'

/** A filter by its coefficients: read from text or a WAV file at the device's own rate. */
const props = defineProps<{ setting: SettingOf<'fir'>, sampleRate: number }>()
defineOptions({ inheritAttrs: false })
const emit = defineEmits<{ change: [value: Fir] }>()
const notices = useNotices()
const fir = computed(() => props.setting.draft)
const most = computed(() => props.setting.parameter.capability.length)
const delay = computed(() => tapsDelay(fir.value.taps) / props.sampleRate)

function tapsOf(bytes: Uint8Array, isWav: boolean): number[] {
  if (!isWav) return readTaps(new TextDecoder().decode(bytes))
  const { sampleRate, channels } = readWav(bytes)
  if (sampleRate === props.sampleRate) return [...channels[0]!]
  throw new RangeError(`This file runs at ${showFrequency(sampleRate)}, the device at `
    + `${showFrequency(props.sampleRate)}: its coefficients would do something else there.`)
}
async function read(file: File) {
  try {
    const taps = tapsOf(new Uint8Array(await file.arrayBuffer()), /\.wav$/i.test(file.name))
    if (taps.length > most.value)
      throw new RangeError(`${taps.length} coefficients are too many: this device takes ${most.value}.`)
    emit('change', { on: true, taps })
  }
  catch (error) { notices.fail(error) }
}
</script>

<template>
  <div class="fir">
    <CheckField
      label="FIR filter in"
      :value="fir.on"
      :by="setting.by"
      @change="emit('change', { ...fir, on: $event })"
    />
    <p class="small soft">
      <template v-if="fir.taps.length">
        {{ fir.taps.length }} of at most {{ most }} coefficients at {{ showFrequency(sampleRate) }}; delays by
        {{ showDelay(delay) }}{{ fir.on ? '' : ' when it is in' }}.
      </template>
      <template v-else>
        No coefficients yet: at most {{ most }}, for {{ showFrequency(sampleRate) }}.
      </template>
    </p>
    <div class="row">
      <FileField
        label="Read from text or WAV"
        accept=".txt,.csv,.wav"
        @pick="read($event[0]!)"
      />
      <ActionButton
        v-if="fir.taps.length"
        size="small"
        severity="secondary"
        label="Save as text"
        @click="download('coefficients.txt', writeTaps(fir.taps, sampleRate), 'text/plain')"
      />
    </div>
    <span
      v-if="setting.differs"
      class="held small"
    >in device {{ setting.parameter.kind.show(setting.held, setting.parameter.capability) }}</span>
  </div>
</template>

<style scoped>
.fir {
  display: grid;
  gap: 0.3rem;
}
p {
  margin: 0;
}
.held {
  color: var(--warn);
}
</style>
