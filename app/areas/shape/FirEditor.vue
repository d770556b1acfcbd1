<script setup lang="ts">
import { tapsDelay } from '~~/core/dsp'
import { readTaps, writeTaps } from '~~/core/formats/tapsText'
import { readWav } from '~~/core/formats/wav'
import type { Fir } from '~~/core/rig'
import { showDelay, showFrequency } from '~~/core/units'
import { download } from '~/parts/download'
import type { SettingOf } from '~/document/useStrip'
import { useNotices } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

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
  throw new RangeError(phrase('shape.thisFileRunsAt', {
    sampleRate: showFrequency(sampleRate),
    ownRate: showFrequency(props.sampleRate),
  }))
}
async function read(file: File) {
  try {
    const taps = tapsOf(new Uint8Array(await file.arrayBuffer()), /\.wav$/i.test(file.name))
    if (taps.length > most.value)
      throw new RangeError(phrase('shape.coefficientsAreTooMany', { taps: taps.length, most: most.value }))
    emit('change', { on: true, taps })
  }
  catch (error) { notices.fail(error) }
}
</script>

<template>
  <div class="fir">
    <CheckField
      :label="phrase('shape.firFilterIn')"
      :value="fir.on"
      :by="setting.by"
      @change="emit('change', { ...fir, on: $event })"
    />
    <p class="small soft">
      <template v-if="fir.taps.length">
        {{
          phrase('shape.ofAtMostCoefficients', {
            taps: fir.taps.length,
            most,
            sampleRate: showFrequency(sampleRate),
            delay: showDelay(delay),
            when: fir.on ? '' : phrase('shape.whenItIsIn'),
          })
        }}
      </template>
      <template v-else>
        {{ phrase('shape.noCoefficientsYetAt', { most, sampleRate: showFrequency(sampleRate) }) }}
      </template>
    </p>
    <div class="row">
      <FileField
        :label="phrase('shape.readFromTextOr')"
        accept=".txt,.csv,.wav"
        @pick="read($event[0]!)"
      />
      <ActionButton
        v-if="fir.taps.length"
        size="small"
        severity="secondary"
        :label="phrase('shape.saveAsText')"
        @click="download('coefficients.txt', writeTaps(fir.taps, sampleRate), 'text/plain')"
      />
    </div>
    <span
      v-if="setting.differs"
      class="held small"
    >{{
      phrase('common.inDevice', {
        held: setting.parameter.kind.show(setting.held, setting.parameter.capability),
      })
    }}</span>
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
