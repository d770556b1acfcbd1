import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { plainQuantity, quantities } from '~~/core/units'
import { octaves, tableQuantities } from './fields'

describe('number fields', () => {
  const kinds = [
    ['level', quantities.level, -80, 12, 0.05],
    ['frequency', quantities.frequency, 20, 20_000, 5],
    ['Q', quantities.q, 0.3, 30, 0.005],
    ['delay', quantities.delay, 0, 0.5, 5e-6],
    ['table level', tableQuantities.level, -80, 12, 0.05],
    ['table frequency', tableQuantities.frequency, 20, 20_000, 5],
    ['metres', plainQuantity('m', 0.1, 2), 0, 300, 0.005],
    ['degrees', plainQuantity('°', 1, 0), -180, 180, 0.5],
  ] as const
  it.each(kinds)('%s: what is shown can be typed back', (_, kind, min, max, coarse) => {
    fc.assert(
      fc.property(fc.double({ min, max, noNaN: true }), (value) => {
        const read = kind.parse(kind.show(value))
        expect(
          read.ok && Math.abs(read.value - value) <= coarse * 1.001,
          `${value} shown as ${kind.show(value)}`,
        ).toBe(true)
      }),
    )
  })
  it.each(kinds)('%s: the arrow keys go up and come back', (_, kind, min, max) => {
    fc.assert(
      fc.property(fc.double({ min: min + (max - min) * 0.2, max: min + (max - min) * 0.8, noNaN: true }), (value) => {
        expect(kind.nudge(value, 1)).toBeGreaterThan(value - 1e-9)
        expect(kind.nudge(value, -1)).toBeLessThan(value + 1e-9)
        expect(kind.nudge(value, 10)).toBeGreaterThan(kind.nudge(value, 1))
      }),
    )
  })
  it('percent takes no metres, Q is shown in octaves too', () => {
    expect(plainQuantity('%', 1, 0).parse('3 m')).toMatchObject({ ok: false })
    expect(octaves(1.414)).toBe('1.00 oct') // handbook value: Q 1.414 is one octave
  })
})
