import type { ChartKindDefinition } from '../kind'
import { harmonicTraces } from '../traces'

export const distortion: ChartKindDefinition = {
  name: 'Distortion by harmonic',
  over: 'frequency',
  weight: 3,
  axis: ({ drawn }) => ({
    unit: drawn.some(d => d.harmonics)
      ? 'dB over the fundamental, by the frequency played'
      : 'appears for a take made by sweep',
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
