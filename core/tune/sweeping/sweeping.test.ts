import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { message } from '../../words'
import {
  cellsToSweep, hasRisen, isTooLoud, levelFault, referenceHears, sweepAfter, sweepLeft, sweepRound, sweepTail,
  type SweepCell, type SweepEvent, type SweepRound,
} from './index'

const cell = (n: number): SweepCell => ({ source: `s${n}`, position: 'mix', only: null })
const cells = (count: number) => Array.from({ length: count }, (_, n) => cell(n))
const done: SweepEvent = { type: 'done' }
const clips: SweepEvent = { type: 'refused', told: message('sweep.clips') }
const silent: SweepEvent = { type: 'refused', told: message('sweep.referenceSilent') }
const after = (round: SweepRound, ...events: SweepEvent[]) => events.reduce(sweepAfter, round)
const whole = [done, done, done, done, done]

describe('a round of sweeps', () => {
  it('goes through each cell step by step, and is over after the last', () => {
    const round = sweepRound(cells(2), -20, true)
    const seen = whole.map((_, n) => after(round, ...whole.slice(0, n)).status)
    expect(seen).toEqual(['preparing', 'checking', 'settling', 'recording', 'keeping'])
    expect(after(round, ...whole)).toMatchObject({ status: 'preparing', at: 1 })
    expect(after(round, ...whole, ...whole)).toMatchObject({ status: 'over', failed: [] })
    expect(sweepRound([], -20, true).status).toBe('over')
  })
  it('tries one that clips again softer, twice, and the next cell at the level that was set', () => {
    const round = after(sweepRound(cells(2), -20, true), done, clips)
    expect(round).toMatchObject({ status: 'checking', at: 0, level: -32 })
    expect(after(round, clips)).toMatchObject({ status: 'checking', at: 0, level: -44 })
    const given = after(round, clips, clips)
    expect(given).toMatchObject({ status: 'preparing', at: 1, level: -20, failed: [{ cell: cell(0) }] })
  })
  it('a single sweep is not made softer by itself: who asked hears that it clips', () => {
    expect(after(sweepRound(cells(1), -20, false), done, clips)).toMatchObject({ status: 'over', failed: [{}] })
  })
  it('goes on after what failed, passes over what another microphone heard, and stops where it is ended', () => {
    expect(after(sweepRound(cells(3), -20, true), silent)).toMatchObject({ status: 'preparing', at: 1 })
    expect(after(sweepRound(cells(3), -20, true), { type: 'skip' })).toMatchObject({ at: 1, failed: [] })
    const ended = after(sweepRound(cells(3), -20, true), ...whole, { type: 'end' })
    expect(after(ended, done, silent, { type: 'skip' })).toEqual(ended)
  })
  it('whatever happens, no sweep is louder than was set, every failure is of its cell, and it comes to an end', () => {
    const event = fc.constantFrom<SweepEvent>(done, clips, silent, { type: 'skip' }, { type: 'recorded', part: 0.5 })
    fc.assert(fc.property(fc.integer({ min: 0, max: 6 }), fc.array(event, { maxLength: 200 }), (count, events) => {
      let round = sweepRound(cells(count), -20, true)
      for (const e of events) {
        const next = sweepAfter(round, e)
        expect(next.level).toBeLessThanOrEqual(-20)
        expect(next.at).toBeGreaterThanOrEqual(round.at)
        round = next
      }
      expect(new Set(round.failed.map(f => f.cell)).size).toBe(round.failed.length)
      // a cell takes at most three tries of five steps
      const steps = Array.from({ length: 15 * count }, () => done)
      expect(after(round, ...steps).status).toBe('over')
    }))
  })
  it('tells how long it still takes', () => {
    const round = after(sweepRound(cells(3), -20, true), done, done, done, { type: 'recorded', part: 0.5 })
    expect(sweepLeft(round, 4)).toBeCloseTo(2.5 * 7)
    expect(sweepLeft(after(round, done, done, ...whole, ...whole), 4)).toBe(0)
  })
})

describe('what is still to be swept', () => {
  const out = (channel: number) => ({ device: 'amp', channel })
  const sources = [{ id: 'left', outputs: [out(0), out(1)] }, { id: 'sub', outputs: [out(2)] }]
  it('is every source at every position, its outputs alone where wished, without what is fresh', () => {
    expect(cellsToSweep(sources, ['a', 'b'], false, () => false).map(c => `${c.position} ${c.source}`))
      .toEqual(['a left', 'a sub', 'b left', 'b sub'])
    const only = cellsToSweep(sources, ['a'], true, () => false).map(c => c.only?.channel)
    expect(only).toEqual([undefined, 0, 1, undefined])
    expect(cellsToSweep(sources, ['a'], true, c => c.only === null)).toHaveLength(2)
  })
})

describe('the level of a sweep', () => {
  it('is refused where it would clip, with how much softer, and where too little is heard', () => {
    expect(levelFault({ peak: -1, rms: -12 })).toEqual(expect.saying('down by 8 dB'))
    expect(levelFault({ peak: -60, rms: -72 })).toEqual(expect.saying('hears too little (-72 dBFS)'))
    expect(levelFault({ peak: -30, rms: -42 })).toBeNull()
  })
  it('a softer sweep may mend what clips, and nothing else', () => {
    for (const code of ['sweep.wouldClip', 'sweep.clips', 'sweep.flattened'])
      expect(isTooLoud({ code, values: {} })).toBe(true)
    expect(isTooLoud(message('sweep.referenceSilent'))).toBe(false)
  })
  it('comes over a cable nearly whole, through the air much softer', () => {
    const at = (rms: number) => ({ peak: rms + 12, rms })
    expect([referenceHears(at(-23), -20, 'cable'), referenceHears(at(-25), -20, 'cable')]).toEqual([true, false])
    expect([referenceHears(at(-58), -20, 'air'), referenceHears(at(-75), -60, 'air')]).toEqual([true, false])
  })
  it('has come when more is heard than before', () => {
    expect([hasRisen({ peak: -40, rms: -50 }, -60), hasRisen({ peak: -40, rms: -50 }, -52)]).toEqual([true, false])
    expect(hasRisen({ peak: -60, rms: -69 }, -100)).toBe(false)
  })
  it('rings on for as long as the room falls by 50 dB', () => {
    expect([sweepTail([1.2, 0.6]), sweepTail([0.2]), sweepTail([20])]).toEqual([1, 0.75, 6])
  })
})
