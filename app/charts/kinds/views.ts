import { later } from '~/parts/later'
import { choicesOfNames } from '~/parts/choices'
import type { ChartKindDefinition } from '../kind'
import { choiceOf } from '../settings'
import { milliseconds } from './fields'
import { phrase } from '~/parts/phrase'

export const spectrogram: ChartKindDefinition = {
  name: phrase('charts.spectrogram'),
  needs: () => ({ spectrum: true }),
  over: null,
  weight: 3,
  axis: () => ({ unit: phrase('charts.secondsAgoDepthOf'), min: 0, max: 0 }),
  view: later(() => import('../SpectrogramChart.vue')),
  settings: [],
}

export const decayMap: ChartKindDefinition = {
  name: phrase('charts.decayOverFrequency'),
  needs: () => ({ impulse: true }),
  over: null,
  weight: 3,
  axis: () => ({ unit: phrase('charts.msFromTheArrivalDepth'), min: 0, max: 0 }),
  view: later(() => import('../DecayMap.vue')),
  settings: [
    choiceOf(
      'mapLength',
      phrase('charts.timeShown'),
      milliseconds([0.2, 0.4, 0.6, 1]),
      phrase('charts.timeShownOfThe'),
    ),
    choiceOf(
      'mapWindow',
      phrase('common.window'),
      milliseconds([0.02, 0.05, 0.1, 0.3]),
      phrase('charts.windowOfTheDecay'),
    ),
    {
      kind: 'number',
      label: phrase('charts.markAt'),
      unit: 'ms',
      step: 50,
      places: 0,
      get: s => s.limit * 1000,
      set: (s, v) => {
        s.limit = Math.max(0, v / 1000)
      },
    },
  ],
}

export const decayTimes: ChartKindDefinition = {
  name: phrase('charts.decayTimesAndClarity'),
  needs: () => ({ impulse: true }),
  over: null,
  weight: 3,
  axis: () => ({ unit: '', min: 0, max: 0 }),
  view: later(() => import('../DecayPanel.vue')),
  settings: [
    choiceOf('decayPart', phrase('charts.bands'), [
      { value: 1, label: phrase('charts.octaves') },
      { value: 3, label: phrase('charts.thirds') },
    ],
    phrase('charts.bandsOfTheDecay'), 'segment'),
  ],
  more: later(() => import('../SpeechSettings.vue')),
}

export const level: ChartKindDefinition = {
  name: phrase('charts.soundLevel'),
  needs: s => ({ level: { weighting: s.weighting, time: s.detector } }),
  over: null,
  weight: 3,
  axis: () => ({ unit: '', min: 0, max: 0 }),
  view: later(() => import('../LevelPanel.vue')),
  settings: [
    choiceOf('weighting', phrase('charts.weighting'), choicesOfNames({ A: 'A', C: 'C', Z: 'Z' }), undefined, 'segment'),
    choiceOf('detector', phrase('charts.detector'), choicesOfNames({
      fast: phrase('charts.fastMs'),
      slow: phrase('charts.slowS'),
      impulse: phrase('charts.impulse'),
    })),
  ],
  more: later(() => import('../LevelSettings.vue')),
}
