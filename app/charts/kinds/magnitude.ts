import TargetHandles from '~/charts/TargetHandles.vue'
import { useTargets } from '~/document/targets'
import { choicesOf } from '~/parts/choices'
import type { ChartKindDefinition } from '../kind'
import { choiceOf } from '../settings'
import { magnitudeTrace, type Trace } from '../traces'
import { confidence, smoothComplex, trust } from './fields'
import { targetTrace } from './targetLine'
import { phrase } from '~/parts/phrase'

/** The top that holds the highest point with `room` over it, in steps of 6 dB; the old one while it still does. */
export function topOf(traces: readonly Trace[], at: readonly number[], before: number, room: number): number {
  let peak = -Infinity
  for (const { values } of traces) for (const k of at) if (values[k]! > peak) peak = values[k]!
  const stays = !Number.isFinite(peak) || (peak <= before - 1 && peak >= before - 8 - room)
  return stays ? before : Math.ceil((peak + room) / 6) * 6
}

export const magnitude: ChartKindDefinition = {
  name: phrase('common.magnitude'),
  over: 'frequency',
  weight: 5,
  byBlocks: true,
  hasLine: true,
  handles: TargetHandles,
  axis: ({ s, range }) => ({
    unit: phrase('charts.dbMicrophoneOverReference'),
    min: range[1] - s.span,
    max: range[1],
    step: [3, 6, 12][Number(s.span > 30) + Number(s.span > 60)]!,
  }),
  fit: (traces, at, before) => [0, topOf(traces, at, before[1], 2)],
  traces: ({ drawn, s }) => {
    const lines = drawn.map(d => magnitudeTrace(d, s.trust, s.confidence))
    return s.showTarget ? [...lines, targetTrace(lines, useTargets().now)] : lines
  },
  settings: [
    smoothComplex,
    trust,
    confidence,
    { kind: 'check', key: 'showTarget', label: phrase('charts.theTargetWithWhat') },
    choiceOf('span', phrase('charts.levelWindow'), choicesOf([18, 24, 42, 60, 90], n => `${n} dB`)),
  ],
}
