<script setup lang="ts">
import { whyNoDecay, type BandDecay, type DecayFit } from '~~/core/measure'
import { showLevel, showNumber } from '~~/core/units'
import type { TableColumn } from '~/parts/columns'
import type { Drawn } from './traces'
import { useCharts } from './useCharts'
import { useFigures } from './useFigures'
import { phrase } from '~/parts/phrase'
import { wordsOf } from '~~/core/words'

/** Decay times and clarity per band, of one impulse response. */
const props = defineProps<{ drawn: Drawn | null }>()
const charts = useCharts()
const answer = useFigures(() => props.drawn, () => {
  const { decayPart, speechLevels: levels } = charts.settings
  return {
    kind: 'decay',
    part: decayPart,
    levels: levels && { speech: [...levels.speech], noise: [...levels.noise] },
  }
})

const unknown = '–'
const fit = (f: DecayFit | null) => (f ? showNumber(f.time, 2) : unknown)
const poor = (f: DecayFit | null) => !!f && f.straightness < 0.99
const figure = (
  name: string,
  text: (b: BandDecay) => string,
  pale: (b: BandDecay) => boolean = () => false,
): TableColumn<BandDecay> => ({ id: name, name, text, pale, numeric: true })
const tableColumns: TableColumn<BandDecay>[] = [
  { id: 'band', name: phrase('charts.band'), text: b => `${b.band}${b.doubts.length ? ' •' : ''}` },
  figure(phrase('charts.edtS'), b => fit(b.early), b => poor(b.early)),
  figure('T20 s', b => fit(b.t20), b => poor(b.t20)),
  figure('T30 s', b => fit(b.t30), b => poor(b.t30)),
  figure('C50', b => (b.c50 === null ? unknown : showLevel(b.c50))),
  figure('C80', b => (b.c80 === null ? unknown : showLevel(b.c80))),
  figure('D50', b => (b.d50 === null ? unknown : showNumber(b.d50, 2))),
  figure(phrase('charts.tsMs'), b => (b.ts === null ? unknown : showNumber(b.ts * 1000, 0))),
  figure(phrase('charts.range'), b => `${showNumber(b.range, 0)} dB`),
]
const none = computed(() => {
  const why = answer.value?.decay && whyNoDecay(answer.value.decay.bands)
  return why ? wordsOf(why) : null
})
</script>

<template>
  <div
    v-if="!drawn"
    class="table soft"
  >
    <p>{{ phrase('charts.nothingToComputeYet') }}</p>
  </div>
  <div
    v-else
    class="table"
    data-testid="decay-times"
  >
    <template v-if="answer?.decay">
      <p
        v-if="none"
        data-testid="no-decay"
      >
        <b>{{ drawn.name }}</b>: {{ none }}
      </p>
      <template v-else>
        <p class="small">
          <b>{{ drawn.name }}</b> {{ phrase('charts.speechTransmissionIndex') }}
          <b
            class="num"
            data-testid="sti"
          >{{ answer.decay.sti === null ? unknown : showNumber(answer.decay.sti, 2) }}</b>{{ ' ' }}
          <span class="soft">{{
            phrase('charts.theResponseDoesNot', {
              part: answer.decay.levels ? phrase('charts.atTheLevelsOf') : phrase('charts.ofTheRoomAlone'),
              unknown,
            })
          }}</span>
        </p>
        <FigureTable
          class="figures"
          :label="phrase('charts.decayByBand')"
          :rows="answer.decay.bands"
          :columns="tableColumns"
          :row-key="b => b.band"
          :row-title="b => b.doubts.map(wordsOf).join(' ')"
        />
      </template>
    </template>
    <p
      v-else
      class="soft"
    >
      {{ phrase('charts.computing') }}
    </p>
  </div>
</template>

<style scoped>
.table {
  overflow: auto;
  padding: 4px 12px 4px 54px;
  min-height: 0;
}
p {
  margin: 0 0 0.4rem;
}
.figures {
  --cell-y: 0.12rem;
}
</style>
