<script setup lang="ts">
import { message } from '~~/core/words'
import { bandLevelOf, fractionalOctaves, speechOctaves, speechSpectrum } from '~~/core/measure'
import { plainQuantity, showFrequency } from '~~/core/units'
import { useCharts } from './useCharts'
import { choicesOfNames } from '~/parts/choices'
import { useNotices } from '~/parts/notices'
import { useListen } from '~/sound/listen'
import { useCalibration } from '~/sound/useCalibration'
import { phrase } from '~/parts/phrase'

/** Levels of speech and noise at the listener that speech transmission is told for. */
const listen = useListen()
const notices = useNotices()
const calibration = useCalibration()
const { settings: s } = storeToRefs(useCharts())
const rows = ['speech', 'noise'] as const
const kinds = choicesOfNames({ room: phrase('charts.ofTheRoomAlone'), levels: phrase('charts.withSpeechAndNoise') })
const octaveRows = speechOctaves.map((f, k) => ({ f, k }))
const columns = [
  { id: 'f', name: phrase('charts.dbAtTheListener'), text: (o: { f: number }) => showFrequency(o.f) },
  ...rows.map(id => ({ id, name: id })),
]
const least = -20
const most = 140
/** Male speech of 60 dB(A), as loud as a normal voice at 1 m; a quiet room. */
const usual = () => ({ speech: speechSpectrum.map(l => Math.round(60 + l)), noise: Array<number>(7).fill(30) })

function set(row: (typeof rows)[number], octave: number, level: number) {
  if (!(level >= least && level <= most))
    return notices.say('warn', message('speech.level', { least, most }))
  const levels = s.value.speechLevels!
  s.value.speechLevels = { ...levels, [row]: levels[row].map((l, k) => (k === octave ? level : l)) }
}
/** What the microphone hears now, when nothing of ours plays. */
function measureNoise() {
  const { spectrum } = listen
  if (!spectrum) return notices.say('warn', message('measure.nothingListening'))
  if (listen.noise) return notices.say('warn', message('speech.testSignal'))
  if (!calibration.value)
    return notices.say('warn', message('speech.notCalibrated'))
  const bands = fractionalOctaves(24, 16, 20_000)
  const noise = fractionalOctaves(1, 125, 8000).map(octave =>
    Math.round(10 * (bandLevelOf(spectrum.microphone, bands, octave) + calibration.value)) / 10)
  s.value.speechLevels = { ...s.value.speechLevels!, noise }
}
</script>

<template>
  <ChoiceField
    :label="phrase('charts.speechTransmission')"
    layout="beside"
    :value="s.speechLevels ? 'levels' : 'room'"
    :options="kinds"
    @change="s.speechLevels = $event === 'levels' ? usual() : null"
  />
  <template v-if="s.speechLevels">
    <FigureTable
      :label="phrase('charts.dbAtTheListener')"
      :rows="octaveRows"
      :columns="columns"
      :row-key="o => o.f"
    >
      <template
        v-for="row in rows"
        #[row]="{ row: octave }"
        :key="row"
      >
        <NumberField
          layout="bare"
          :label="phrase('charts.at2', { name: row === 'speech'
            ? phrase('charts.speech')
            : phrase('listen.noise'),
f: showFrequency(octave.f) })"
          :value="s.speechLevels[row][octave.k]!"
          v-bind="plainQuantity('dB', 1, 1)"
          @change="set(row, octave.k, $event)"
        />
      </template>
    </FigureTable>
    <ActionButton
      size="small"
      severity="secondary"
      :label="phrase('charts.noiseAsHeardNow')"
      @click="measureNoise"
    />
  </template>
</template>
