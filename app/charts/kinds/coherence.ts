import type { ChartKindDefinition } from '../kind'
import { coherenceTrace } from '../traces'
import { phrase } from '~/parts/phrase'

export const coherence: ChartKindDefinition = {
  name: phrase('charts.coherence3'),
  over: 'frequency',
  weight: 2,
  byBlocks: true,
  axis: () => ({ unit: phrase('charts.to'), min: 0, max: 1, step: 0.5 }),
  traces: ({ drawn }) => drawn.filter(d => d.curve.coherence && !d.predicted).map(coherenceTrace),
  settings: [],
}
