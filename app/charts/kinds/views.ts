import { later } from '~/parts/later'
import { choicesOfNames } from '~/parts/choices'
import type { ChartKindDefinition } from '../kind'
import { choiceOf } from '../settings'
import { milliseconds } from './fields'

export const spectrogram: ChartKindDefinition = {
  name: 'Spectrogram',
  needs: () => ({ spectrum: true }),
  over: null,
  weight: 3,
  axis: () => ({ unit: 'seconds ago; depth of colour: level', min: 0, max: 0 }),
  view: later(() => import('../SpectrogramChart.vue')),
  settings: [],
}

export const decayMap: ChartKindDefinition = {
  name: 'Decay over frequency',
  needs: () => ({ impulse: true }),
  over: null,
  weight: 3,
  axis: () => ({ unit: 'ms from the arrival; depth of colour: level', min: 0, max: 0 }),
  view: later(() => import('../DecayMap.vue')),
  settings: [
    choiceOf('mapLength', 'Time shown', milliseconds([0.2, 0.4, 0.6, 1]), 'Time shown of the decay'),
    choiceOf('mapWindow', 'Window', milliseconds([0.02, 0.05, 0.1, 0.3]), 'Window of the decay'),
    {
      kind: 'number',
      label: 'Mark at',
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
  name: 'Decay times and clarity',
  needs: () => ({ impulse: true }),
  over: null,
  weight: 3,
  axis: () => ({ unit: '', min: 0, max: 0 }),
  view: later(() => import('../DecayPanel.vue')),
  settings: [
    choiceOf('decayPart', 'Bands', [{ value: 1, label: 'octaves' }, { value: 3, label: 'thirds' }],
      'Bands of the decay', 'segment'),
  ],
  more: later(() => import('../SpeechSettings.vue')),
}

export const level: ChartKindDefinition = {
  name: 'Sound level',
  needs: s => ({ level: { weighting: s.weighting, time: s.detector } }),
  over: null,
  weight: 3,
  axis: () => ({ unit: '', min: 0, max: 0 }),
  view: later(() => import('../LevelPanel.vue')),
  settings: [
    choiceOf('weighting', 'Weighting', choicesOfNames({ A: 'A', C: 'C', Z: 'Z' }), undefined, 'segment'),
    choiceOf('detector', 'Detector', choicesOfNames({ fast: 'Fast, 125 ms', slow: 'Slow, 1 s', impulse: 'Impulse' })),
  ],
  more: later(() => import('../LevelSettings.vue')),
}
