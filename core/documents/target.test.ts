import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { asPoints, readDocument, targetLevel, type TargetPoint } from './index'

const target = (points: TargetPoint[]) => readDocument('target/own', {
  id: 'own', name: 'Own', order: 0, points, tolerance: 3, range: [200, 4000], level: null,
})
const points = [{ frequency: 100, level: 4 }, { frequency: 1000, level: 0 }, { frequency: 10_000, level: -6 }]

describe('a target of points', () => {
  it('is straight between them on a logarithmic axis and goes on level beyond its ends', () => {
    const at = (f: number) => targetLevel(points, f)
    expect([20, 100, Math.sqrt(100 * 1000), 1000, 20_000].map(at)).toEqual([4, 4, 2, 0, -6])
  })
  it('comes back from any curve within what is allowed, with no more points than it needs', () => {
    const grid = Array.from({ length: 400 }, (_, k) => 20 * 2 ** (k / 40))
    const within = fc.double({ min: 0.1, max: 2, noNaN: true })
    fc.assert(fc.property(within, fc.integer({ min: 1, max: 6 }), (most, turns) => {
      const curve = grid.map((_, k) => 5 * Math.sin((turns * k) / 60))
      const few = asPoints(grid, curve, most)
      expect(few.length).toBeLessThan(200)
      grid.forEach((f, k) => expect(Math.abs(targetLevel(few, f) - curve[k]!)).toBeLessThan(most + 0.05))
    }))
    expect(asPoints(grid, grid.map(f => Math.log2(f)), 0.1)).toHaveLength(2)
  })
  it.each([
    [[], /at least one point/],
    [[...points].reverse(), /must ascend/],
    [[{ frequency: 100, level: 99 }], /-60 to 60/],
  ])('is refused in words where it is none', (list, words) => {
    expect(target(points).ok).toBe(true)
    expect(target(list as TargetPoint[])).toMatchObject({ ok: false, why: expect.saying(words) as string })
  })
})
