<script setup lang="ts">
import { bandLevelOf, fractionalOctaves } from '~~/core/measure'
import { plainQuantity } from '~~/core/units'
import { useNotices } from '~/parts/notices'
import { useListen } from '~/sound/listen'
import { useCalibration } from '~/sound/useCalibration'

/** What 0 dBFS is: typed, or told by a calibrator on the microphone. */
const listen = useListen()
const notices = useNotices()
const calibration = useCalibration()
/** What is heard now is the calibrator's level: its 1 kHz must stand far over everything else. */
function calibrate(level: number) {
  const { spectrum } = listen
  const bands = fractionalOctaves(24, 16, 20_000)
  if (!spectrum)
    return notices.say(
      'warn',
      'Nothing measured yet: start listening, put the calibrator on the microphone, then press again.',
    )
  const power = (low: number, high: number) => bandLevelOf(spectrum.microphone, bands, { low, high })
  const tone = power(890, 1120)
  const rest = Math.max(power(100, 890), power(1120, 20_000))
  if (tone < rest + 10 || tone < -70)
    return notices.say(
      'error',
      'No calibrator is heard: its tone of 1 kHz must stand at least 10 dB over everything else. Nothing was changed.',
    )
  calibration.value = Math.round((level - tone) * 10) / 10
  notices.say('info', `Calibrated: 0 dBFS is ${calibration.value.toFixed(1)} dB.`)
}
</script>

<template>
  <div class="row">
    <span class="soft">Calibrator</span><ActionButton
      v-for="n in [94, 114]"
      :key="n"
      size="small"
      severity="secondary"
      :label="`${n} dB`"
      :title="`Fit the calibrator, then press Calibrate: what is heard now is ${n} dB`"
      @click="calibrate(n)"
    />
  </div>
  <NumberField
    v-model:value="calibration"
    label="Sensitivity: 0 dBFS ="
    v-bind="plainQuantity('dB', 0.5, 1)"
  />
</template>
