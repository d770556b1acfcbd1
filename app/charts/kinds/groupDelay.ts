import { choicesOf } from '~/parts/choices'
import type { ChartKindDefinition } from '../kind'
import { choiceOf } from '../settings'
import { groupDelayTrace, hasPhase } from '../traces'
import { middleOf } from './phase'
import { smoothComplex, trust } from './fields'
import { shapedDrawn, shapedField } from './shaped'
import { phrase } from '~/parts/phrase'

const widths = choicesOf([1 / 12, 1 / 6, 1 / 3, 1], w => (w === 1
  ? phrase('charts.oneOctave')
  : `1/${Math.round(1 / w)} octave`))

export const groupDelay: ChartKindDefinition = {
  name: phrase('common.groupDelay'),
  over: 'frequency',
  weight: 3,
  byBlocks: true,
  axis: ({ range, s, drawn }) => {
    const traces = drawn.filter(d => hasPhase(d.curve)).map(d => groupDelayTrace(d, s.trust, s.delayWidth))
    let all = 0
    let off = 0
    for (const t of traces)
      t.values.forEach((v, k) => {
        const f = drawn[0]!.curve.frequencies[k]!
        if (!Number.isFinite(v) || f < s.low || f > s.high) return
        all++
        if (v < range[0] || v > range[1]) off++
      })
    const outside = off
      ? phrase('charts.inPointsLieOutside', {
          count: Math.max(1, Math.round((100 * off) / all)),
        })
      : ''
    const width = widths.find(c => c.value === s.delayWidth)?.label ?? `${s.delayWidth} octaves`
    return { unit: phrase('charts.msAfterItsArrival', { width, outside }), min: range[0], max: range[1] }
  },
  fit: (traces, at, before) => middleOf(traces, at, before, span => (span > 40 ? 20 : 5)),
  traces: c => [...c.drawn, ...shapedDrawn(c)]
    .filter(d => hasPhase(d.curve))
    .map(d => groupDelayTrace(d, c.s.trust, c.s.delayWidth)),
  settings: [
    choiceOf('delayWidth', phrase('charts.averagedOver'), widths, phrase('charts.averagedOverGroupDelay')),
    smoothComplex,
    trust,
    shapedField,
  ],
}
