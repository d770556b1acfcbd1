import type { ChartKindDefinition } from '../kind'
import { harmonicTraces } from '../traces'
import { phrase } from '~/parts/phrase'

export const distortion: ChartKindDefinition = {
  name: phrase('charts.distortionByHarmonic'),
  over: 'frequency',
  weight: 3,
  axis: ({ drawn }) => ({
    unit: drawn.some(d => d.harmonics)
      ? phrase('charts.dbOverTheFundamental')
      : phrase('charts.appearsForATake'),
    min: -90,
    max: 0,
    step: 12,
  }),
  traces: ({ swept }) => {
    const last = swept.at(-1)
    return last ? harmonicTraces(last) : []
  },
  settings: [],
}
