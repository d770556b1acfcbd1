import { choicesOf } from '~/parts/choices'
import type { ChartContext, ChartKindDefinition } from '../kind'
import { choiceOf } from '../settings'
import { hasPhase, phaseTrace, type Trace } from '../traces'
import { confidence, smoothComplex, trust } from './fields'
import { shapedDrawn, shapedField } from './shaped'
import { phrase } from '~/parts/phrase'

/** The middle 94 of 100 points and some room, in whole `step`s. */
export function middleOf(
  traces: readonly Trace[],
  at: readonly number[],
  before: readonly [number, number],
  step: (span: number) => number,
): readonly [number, number] {
  const sorted = traces
    .flatMap(t => at.map(k => t.values[k]!).filter(Number.isFinite))
    .sort((a, b) => a - b)
  if (!sorted.length) return before
  const low = sorted[Math.floor(sorted.length * 0.03)]!
  const high = sorted[Math.floor(sorted.length * 0.97)]!
  const by = step(high - low)
  return [Math.floor(low / by - 0.3) * by, Math.ceil(high / by + 0.3) * by]
}

/** Seconds that are taken out of all phases alike: what is measured now has been found at, else the first kept. */
const commonOf = ({ drawn, s }: ChartContext) =>
  s.commonDelay ? (drawn.find(d => d.id === 'live')?.delay ?? drawn.find(d => d.delay !== undefined)?.delay) : undefined

export const phase: ChartKindDefinition = {
  name: phrase('common.phase'),
  over: 'frequency',
  weight: 3,
  byBlocks: true,
  axis: (c) => {
    const common = commonOf(c)
    const from = common === undefined
      ? phrase('charts.delayRemoved')
      : phrase('charts.allFromMs', {
          common: (common * 1000).toFixed(2),
        })
    return c.s.unwrapped
      ? { unit: phrase('charts.degreesUnwrapped', { from }), min: c.range[0], max: c.range[1] }
      : { unit: phrase('charts.degrees', { from }), min: -180, max: 180, step: 90 }
  },
  fit: (traces, at, before, s) => (s.unwrapped ? middleOf(traces, at, before, () => 180) : before),
  traces: (c) => {
    const common = commonOf(c)
    return [...c.drawn, ...shapedDrawn(c)]
      .filter(d => hasPhase(d.curve))
      .map((d) => {
        const late = common === undefined || d.delay === undefined ? 0 : d.delay - common
        return phaseTrace(d, c.s.trust, c.s.unwrapped, c.s.confidence, late)
      })
  },
  settings: [
    smoothComplex,
    trust,
    confidence,
    shapedField,
    choiceOf('commonDelay', phrase('charts.delayRemoved2'), [
      { value: false, label: phrase('charts.eachItsOwn') },
      { value: true, label: phrase('charts.oneForAll') },
    ], phrase('charts.delayRemovedFromPhase'), 'segment'),
    choiceOf('unwrapped', phrase('charts.turns'), choicesOf([false, true], on => (on
      ? phrase('charts.addedUp')
      : 'wrapped')), undefined, 'segment'),
  ],
}
