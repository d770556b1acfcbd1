<script setup lang="ts">
import { fractionalOctaves, smoothings } from '~~/core/measure'
import { frequencyWindows, type ChartKind } from '~/frame/charts'
import { quantities, plainQuantity } from '~~/core/units'

/** How a chart is shown, opened from the chart itself. */
const props = defineProps<{ kind: ChartKind, drawable: boolean }>()
const emit = defineEmits<{ close: [], picture: [kind: 'svg' | 'png'] }>()
const view = useView()
const listen = useListen()
const notices = useNotices()
const { settings: s } = storeToRefs(useCharts())
const is = (...kinds: ChartKind[]) => kinds.includes(props.kind)
const windowNow = computed(
  () => frequencyWindows.find(w => w[1] === s.value.low && w[2] === s.value.high)?.[0] ?? '',
)
function chooseWindow(name: string) {
  const [, low, high] = frequencyWindows.find(w => w[0] === name)!
  Object.assign(s.value, { low, high })
}
const calibration = useCalibration()
/** What is heard now is the calibrator's level: its 1 kHz must stand far over everything else. */
function calibrate(level: number) {
  const { spectrum } = listen
  const bands = fractionalOctaves(24, 16, 20_000)
  if (!spectrum)
    return notices.say(
      'warn',
      'Nothing is measured yet: start listening, put the calibrator on the microphone, then press again.',
    )
  const power = (ok: (f: number) => boolean) =>
    10
    * Math.log10(
      bands.reduce((sum, b, k) => (ok(b.middle) ? sum + 10 ** (spectrum.microphone[k]! / 10) : sum), 1e-20),
    )
  const tone = power(f => f > 890 && f < 1120)
  const rest = power(f => f > 100 && (f < 890 || f > 1120))
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
  <div
    class="settings panel"
    role="group"
    aria-label="Chart settings"
    @keydown.escape.stop="emit('close')"
  >
    <template v-if="!is('impulse', 'envelope', 'step', 'level', 'decay-times', 'spectrogram', 'decay-map')">
      <label><span>Frequencies</span><select
        :value="windowNow"
        aria-label="Frequencies"
        @change="chooseWindow(($event.target as HTMLSelectElement).value)"
      >
        <option
          v-if="!windowNow"
          value=""
          disabled
        >own</option>
        <option
          v-for="w in frequencyWindows"
          :key="w[0]"
          :value="w[0]"
        >
          {{ w[0] }}, {{ w[1] }} to {{ w[2] }} Hz
        </option>
      </select></label>
      <div class="two">
        <NumberField
          label="From"
          :value="s.low"
          v-bind="quantities.frequency"
          @change="s.low = Math.min(Math.max(1, $event), s.high / 2)"
        />
        <NumberField
          label="To"
          :value="s.high"
          v-bind="quantities.frequency"
          @change="s.high = Math.max(Math.min(48000, $event), s.low * 2)"
        />
      </div>
    </template>
    <template v-if="is('magnitude', 'phase', 'group-delay')">
      <label><span>Smoothing</span><select
        v-model.number="view.smoothing"
        aria-label="Smoothing of the chart"
      >
        <option
          v-for="n in smoothings"
          :key="n"
          :value="n"
        >
          {{ n === 48 ? 'none (1/48 octave)' : `1/${n} octave` }}
        </option>
      </select></label>
      <label class="row"><input
        v-model="s.complexSmoothing"
        type="checkbox"
      > smooth the complex value</label>
      <NumberField
        label="Pale under coherence"
        :value="s.trust"
        v-bind="plainQuantity('', 0.05, 2)"
        @change="s.trust = Math.max(0, Math.min(1, $event))"
      />
    </template>
    <label
      v-if="is('phase')"
      class="row"
    ><input
      v-model="s.unwrapped"
      type="checkbox"
    > unwrapped</label>
    <template v-if="is('magnitude')">
      <label><span>Level window</span><select
        v-model.number="s.span"
        aria-label="Level window"
      >
        <option
          v-for="n in [18, 24, 42, 60, 90]"
          :key="n"
          :value="n"
        >{{ n }} dB</option>
      </select></label>
      <label class="row"><input
        type="checkbox"
        :checked="s.line !== null"
        @change="s.line = s.line === null ? 0 : null"
      >
        reference line</label>
      <NumberField
        v-if="s.line !== null"
        label="Reference line at"
        :value="s.line"
        v-bind="quantities.level"
        @change="s.line = $event"
      />
    </template>
    <label v-if="is('impulse', 'envelope', 'step')"><span>Time shown</span><select
      v-model.number="s.time"
      aria-label="Time shown"
    >
      <option
        v-for="t in [0.005, 0.02, 0.05, 0.1, 0.3, 1]"
        :key="t"
        :value="t"
      >{{ t * 1000 }} ms</option>
    </select></label>
    <template v-if="is('spectrum')">
      <label><span>Bands</span><select
        v-model.number="s.part"
        aria-label="Bands"
      >
        <option
          v-for="n in [1, 3, 6, 12, 24]"
          :key="n"
          :value="n"
        >1/{{ n }} octave</option>
      </select></label>
      <label class="row"><input
        v-model="s.hold"
        type="checkbox"
      > hold peaks</label>
    </template>
    <template v-if="is('decay-map')">
      <label><span>Time shown</span><select
        v-model.number="s.mapLength"
        aria-label="Time of the decay"
      >
        <option
          v-for="t in [0.2, 0.4, 0.6, 1]"
          :key="t"
          :value="t"
        >{{ t * 1000 }} ms</option>
      </select></label>
      <label><span>Window</span><select
        v-model.number="s.mapWindow"
        aria-label="Window of the decay"
      >
        <option
          v-for="t in [0.02, 0.05, 0.1, 0.3]"
          :key="t"
          :value="t"
        >{{ t * 1000 }} ms</option>
      </select></label>
      <NumberField
        label="Mark at"
        :value="s.limit * 1000"
        v-bind="plainQuantity('ms', 50, 0)"
        @change="s.limit = Math.max(0, $event / 1000)"
      />
    </template>
    <label v-if="is('decay-times')"><span>Bands</span><select
      v-model.number="s.decayPart"
      aria-label="Decay bands"
    >
      <option :value="1">octaves</option>
      <option :value="3">thirds</option>
    </select></label>
    <template v-if="is('level')">
      <label><span>Weighting</span><select
        v-model="s.weighting"
        aria-label="Weighting"
      >
        <option
          v-for="w in ['A', 'C', 'Z']"
          :key="w"
          :value="w"
        >{{ w }}</option>
      </select></label>
      <label><span>Detector</span><select
        v-model="s.detector"
        aria-label="Detector"
      >
        <option value="fast">Fast, 125 ms</option>
        <option value="slow">Slow, 1 s</option>
        <option value="impulse">Impulse</option>
      </select></label>
      <div class="row">
        <span class="soft">Calibrator</span><Button
          v-for="n in [94, 114]"
          :key="n"
          size="small"
          severity="secondary"
          :label="`${n} dB`"
          :title="`Put the calibrator on the microphone, then press: what is heard now is ${n} dB`"
          @click="calibrate(n)"
        />
      </div>
      <NumberField
        label="0 dBFS is"
        :value="calibration"
        v-bind="plainQuantity('dB', 0.5, 1)"
        @change="calibration = $event"
      />
    </template>
    <div
      v-if="drawable"
      class="row"
    >
      <span class="soft">Save as</span><Button
        size="small"
        severity="secondary"
        label="PNG"
        @click="emit('picture', 'png')"
      /><Button
        size="small"
        severity="secondary"
        label="SVG"
        @click="emit('picture', 'svg')"
      />
    </div>
    <Button
      size="small"
      text
      label="Done"
      @click="emit('close')"
    />
  </div>
</template>

<style scoped>
.settings {
  position: absolute;
  right: 8px;
  top: 28px;
  z-index: 6;
  width: 250px;
  max-height: calc(100% - 32px);
  min-height: 90px;
  overflow-y: auto;
  padding: 0.6rem 0.7rem;
  display: grid;
  gap: 0.45rem;
  box-shadow: 0 3px 10px #0005;
  font-size: 0.92rem;
}
label:not(.row) {
  display: grid;
  grid-template-columns: 92px 1fr;
  align-items: center;
}
.settings :deep(label.field) {
  display: grid;
  grid-template-columns: none;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
}
</style>
