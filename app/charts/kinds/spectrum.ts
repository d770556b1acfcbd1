import { bandParts } from '~~/core/measure'
import { choicesOf, choicesOfNames } from '~/parts/choices'
import type { ChartKindDefinition } from '../kind'
import { choiceOf } from '../settings'
import { topOf } from './magnitude'
import { phrase } from '~/parts/phrase'

export const spectrum: ChartKindDefinition = {
  name: phrase('charts.spectrum'),
  needs: s => ({ bands: { part: s.part, time: s.bandTime } }),
  over: 'frequency',
  weight: 3,
  axis: ({ s, range }) => ({
    unit: phrase('charts.dbfsPerOctave', {
      width: s.part,
      detector: s.bandTime === 'slow' ? phrase('charts.slowS') : phrase('charts.fastMs'),
    }),
    min: range[1] - Math.max(60, s.span),
    max: range[1],
    step: 12,
  }),
  fit: (traces, at, before) => [0, topOf(traces, at, before[1], 6)],
  traces: ({ spectra }) => spectra(),
  settings: [
    choiceOf('part', phrase('charts.bands'), choicesOf(bandParts, n => `1/${n} octave`)),
    choiceOf('bandTime', phrase('charts.detector'), choicesOfNames({
      fast: phrase('charts.fastMs'),
      slow: phrase('charts.slowS'),
    }),
    phrase('charts.detectorOfTheBands'), 'segment'),
    { kind: 'check', key: 'hold', label: phrase('charts.holdPeaks') },
  ],
}
