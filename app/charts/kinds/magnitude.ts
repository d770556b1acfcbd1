import { standardGrid } from '~~/core/dsp'
import { targets, type TargetId } from '~~/core/tune'
import { choicesOf } from '~/parts/choices'
import type { ChartKindDefinition } from '../kind'
import { choiceOf, type ChartSettings } from '../settings'
import { magnitudeTrace, type Trace } from '../traces'
import { confidence, smoothComplex, trust } from './fields'

/** The top that holds the highest point with `room` over it, in steps of 6 dB; the old one while it still does. */
export function topOf(traces: readonly Trace[], at: readonly number[], before: number, room: number): number {
  let peak = -Infinity
  for (const { values } of traces) for (const k of at) if (values[k]! > peak) peak = values[k]!
  const stays = !Number.isFinite(peak) || (peak <= before - 1 && peak >= before - 8 - room)
  return stays ? before : Math.ceil((peak + room) / 6) * 6
}

const everywhere = Array.from(standardGrid, () => true)
/** The target at the level of the strongest line (median of 200 Hz to 4 kHz), with its tolerance as a band. */
function targetTrace(lines: readonly Trace[], s: ChartSettings): Trace {
  const shape = standardGrid.map(f => targets[s.target].level(f))
  const line = lines.findLast(t => t.strong) ?? lines.at(-1)
  const apart = [...standardGrid.keys()]
    .filter(k => standardGrid[k]! > 200 && standardGrid[k]! < 4000 && Number.isFinite(line?.values[k]))
    .map(k => line!.values[k]! - shape[k]!)
    .sort((a, b) => a - b)
  const level = apart[apart.length >> 1] ?? 0
  const values = shape.map(v => v + level)
  const off = (by: number) => values.map(v => v + by)
  return {
    id: 'target',
    name: 'target',
    hue: 7,
    dash: 1,
    predicted: false,
    strong: false,
    values,
    trusted: everywhere,
    band: [off(-s.tolerance), off(s.tolerance)],
  }
}

export const magnitude: ChartKindDefinition = {
  name: 'Magnitude',
  over: 'frequency',
  weight: 5,
  byBlocks: true,
  hasLine: true,
  axis: ({ s, range }) => ({
    unit: 'dB, microphone over reference',
    min: range[1] - s.span,
    max: range[1],
    step: [3, 6, 12][Number(s.span > 30) + Number(s.span > 60)]!,
  }),
  fit: (traces, at, before) => [0, topOf(traces, at, before[1], 2)],
  traces: ({ drawn, s }) => {
    const lines = drawn.map(d => magnitudeTrace(d, s.trust, s.confidence))
    return s.showTarget ? [...lines, targetTrace(lines, s)] : lines
  },
  settings: [
    smoothComplex,
    trust,
    confidence,
    { kind: 'check', key: 'showTarget', label: 'the target, with what may be off it' },
    choiceOf('target', 'Target', choicesOf(Object.keys(targets) as TargetId[], id => targets[id].name)),
    choiceOf('tolerance', 'May be off by', choicesOf([1.5, 3, 6], n => `${n} dB`)),
    choiceOf('span', 'Level window', choicesOf([18, 24, 42, 60, 90], n => `${n} dB`)),
  ],
}
