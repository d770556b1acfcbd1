import { bandParts } from '~~/core/measure'
import { choicesOf, choicesOfNames } from '~/parts/choices'
import type { ChartKindDefinition } from '../kind'
import { choiceOf } from '../settings'
import { topOf } from './magnitude'

export const spectrum: ChartKindDefinition = {
  name: 'Spectrum',
  needs: s => ({ bands: { part: s.part, time: s.bandTime } }),
  over: 'frequency',
  weight: 3,
  axis: ({ s, range }) => ({
    unit: `dBFS per 1/${s.part} octave, ${s.bandTime === 'slow' ? 'Slow (1 s)' : 'Fast (125 ms)'}`,
    min: range[1] - Math.max(60, s.span),
    max: range[1],
    step: 12,
  }),
  fit: (traces, at, before) => [0, topOf(traces, at, before[1], 6)],
  traces: ({ spectra }) => spectra(),
  settings: [
    choiceOf('part', 'Bands', choicesOf(bandParts, n => `1/${n} octave`)),
    choiceOf('bandTime', 'Detector', choicesOfNames({ fast: 'Fast, 125 ms', slow: 'Slow, 1 s' }),
      'Detector of the bands', 'segment'),
    { kind: 'check', key: 'hold', label: 'hold peaks' },
  ],
}
