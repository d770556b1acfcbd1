import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { scipy, worstError, type ComplexValues } from '../reference/scipy'
import { applySections, logGrid, peaking, unity } from '../dsp'
import { readFilters, writeBiquads, writeFilters } from './filterText'
import type { Filter } from '../dsp'

const filter = fc.record({
  kind: fc.constantFrom('peaking', 'low-shelf', 'high-shelf', 'notch', 'band-pass', 'all-pass'),
  frequency: fc.integer({ min: 20, max: 20_000 }),
  gain: fc.integer({ min: -240, max: 120 }).map(v => v / 10),
  q: fc.integer({ min: 30, max: 3000 }).map(v => v / 100),
})

describe('lists of filters as text', () => {
  it('come back as they were, with tabs, commas or semicolons', () => {
    fc.assert(fc.property(fc.array(filter, { maxLength: 12 }), fc.constantFrom('\t', ',', ';'), (list, separator) => {
      expect(readFilters(writeFilters(list, separator))).toEqual(list)
    }))
  })
  it('take a width in octaves in place of Q, and decimal commas: 1 octave is Q 1.414 (common practice)', () => {
    const [read] = readFilters('frequency_hz;kind;gain_db;bandwidth_oct\n1000;peaking;−3,5;1\n')
    expect(read).toEqual({ kind: 'peaking', frequency: 1000, gain: -3.5, q: expect.closeTo(1.414, 3) as number })
  })
  it('say in which line what is wrong', () => {
    const head = 'kind\tfrequency_hz\tgain_db\tq\n'
    expect(() => readFilters('Dear sound crew')).toThrow(/first line must name/)
    expect(() => readFilters(`${head}peaking\t100\t0\t1\nbell\t100\t0\t1`)).toThrow(/Line 3: there is no kind “bell”/)
    expect(() => readFilters(`${head}peaking\tlow\t0\t1`)).toThrow(/Line 2: frequency_hz is “low”/)
    expect(() => readFilters(`${head}peaking\t100\t0\t0`)).toThrow(/Line 2: .*above 0/)
  })
  it('as coefficients are what scipy makes the same response of, by either sign', async () => {
    const list: Filter[] = [{ kind: 'peaking', frequency: 630, gain: -7, q: 2.2 }]
    const row = (signs: 'plus' | 'minus') =>
      writeBiquads(list, 48_000, signs).split('\n')[1]!.split(',').map(Number)
    const [b0, b1, b2, a1, a2] = row('plus') as [number, number, number, number, number]
    expect(row('minus')).toEqual([b0, b1, b2, -a1, -a2])
    const grid = logGrid(6, 20, 20_000)
    const truth = await scipy<ComplexValues>('freqz', {
      b: [b0, b1, b2], a: [1, a1, a2], rate: 48_000, frequencies: grid,
    })
    const curve = unity(grid)
    applySections(curve, [peaking(630, -7, 2.2, 48_000)], 48_000)
    expect(worstError(curve.re, curve.im, truth)).toBeLessThan(1e-12)
  })
})
