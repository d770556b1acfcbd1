<script setup lang="ts">
import { calibrationOf, fractionalOctaves } from '~~/core/measure'
import { plainQuantity } from '~~/core/units'
import { message } from '~~/core/words'
import { useNotices } from '~/parts/notices'
import { useListen } from '~/sound/listen'
import { useCalibration } from '~/sound/useCalibration'
import { phrase } from '~/parts/phrase'

/** What 0 dBFS is: typed, or told by a calibrator on the microphone. */
const listen = useListen()
const notices = useNotices()
const calibration = useCalibration()
/** What is heard now is the calibrator's level. */
function calibrate(level: number) {
  const { spectrum } = listen
  if (!spectrum) return notices.say('warn', message('calibration.nothingHeard'))
  try {
    calibration.value = calibrationOf(spectrum.microphone, fractionalOctaves(24, 16, 20_000), level)
    notices.say('info', message('calibration.done', { level: calibration.value.toFixed(1) }))
  }
  catch (error) { notices.fail(error) }
}
</script>

<template>
  <div class="row">
    <span class="soft">{{ phrase('charts.calibrator') }}</span><ActionButton
      v-for="n in [94, 114]"
      :key="n"
      size="small"
      severity="secondary"
      :label="`${n} dB`"
      :title="phrase('charts.fitTheCalibratorThen', { n })"
      @click="calibrate(n)"
    />
  </div>
  <NumberField
    v-model:value="calibration"
    :label="phrase('charts.sensitivityDbfs')"
    v-bind="plainQuantity('dB', 0.5, 1)"
  />
</template>
