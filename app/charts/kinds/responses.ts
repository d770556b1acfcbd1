import { stepResponse } from '~~/core/dsp'
import type { ChartKindDefinition } from '../kind'
import { timeTrace } from '../traces'
import { timeShown } from './fields'
import { phrase } from '~/parts/phrase'

const needs = () => ({ impulse: true })
const unit = phrase('charts.partsOfItsPeak')

export const impulse: ChartKindDefinition = {
  name: phrase('common.impulseResponse'),
  needs,
  over: 'time',
  weight: 3,
  axis: () => ({ unit, min: -1.05, max: 1.05, step: 0.5 }),
  traces: ({ responses, times }) => responses.map(d => timeTrace(d, times, 'linear')),
  settings: [timeShown],
}

export const envelope: ChartKindDefinition = {
  name: phrase('charts.envelopeDb'),
  needs,
  over: 'time',
  weight: 3,
  axis: () => ({ unit: phrase('charts.dbBelowItsPeak'), min: -72, max: 3, step: 12 }),
  traces: ({ responses, times, envelopeOf }) =>
    responses.flatMap((d) => {
      const hull = envelopeOf(d)
      return hull ? [timeTrace(d, times, 'dB', hull)] : []
    }),
  settings: [timeShown],
}

export const step: ChartKindDefinition = {
  name: phrase('charts.stepResponse'),
  needs,
  over: 'time',
  weight: 3,
  axis: () => ({ unit, min: -1.3, max: 1.3, step: 0.5 }),
  traces: ({ responses, times }) =>
    responses.map(d => timeTrace(d, times, 'step', stepResponse(d.response!.samples))),
  settings: [timeShown],
}
