import { stepResponse } from '~~/core/dsp'
import type { ChartKindDefinition } from '../kind'
import { timeTrace } from '../traces'
import { timeShown } from './fields'

const needs = () => ({ impulse: true })
const unit = 'parts of its peak, over ms from the arrival'

export const impulse: ChartKindDefinition = {
  name: 'Impulse response',
  needs,
  over: 'time',
  weight: 3,
  axis: () => ({ unit, min: -1.05, max: 1.05, step: 0.5 }),
  traces: ({ responses, times }) => responses.map(d => timeTrace(d, times, 'linear')),
  settings: [timeShown],
}

export const envelope: ChartKindDefinition = {
  name: 'Envelope (dB)',
  needs,
  over: 'time',
  weight: 3,
  axis: () => ({ unit: 'dB below its peak, over ms from the arrival', min: -72, max: 3, step: 12 }),
  traces: ({ responses, times, envelopeOf }) =>
    responses.flatMap((d) => {
      const hull = envelopeOf(d)
      return hull ? [timeTrace(d, times, 'dB', hull)] : []
    }),
  settings: [timeShown],
}

export const step: ChartKindDefinition = {
  name: 'Step response',
  needs,
  over: 'time',
  weight: 3,
  axis: () => ({ unit, min: -1.3, max: 1.3, step: 0.5 }),
  traces: ({ responses, times }) =>
    responses.map(d => timeTrace(d, times, 'step', stepResponse(d.response!.samples))),
  settings: [timeShown],
}
