import type { ChartKindDefinition } from '../kind'
import { coherenceTrace } from '../traces'

export const coherence: ChartKindDefinition = {
  name: 'Coherence',
  over: 'frequency',
  weight: 2,
  byBlocks: true,
  axis: () => ({ unit: '0 to 1', min: 0, max: 1, step: 0.5 }),
  traces: ({ drawn }) => drawn.filter(d => d.curve.coherence && !d.predicted).map(coherenceTrace),
  settings: [],
}
