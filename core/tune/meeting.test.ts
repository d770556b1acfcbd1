import { describe, expect, it } from 'vitest'
import { delaysToMeet } from './index'

describe('sources brought together in time', () => {
  const reference = { arrivals: [0.02, 0.03], set: 0, later: 0 }
  it('arrive with the first at one position, or so much later', () => {
    const near = { arrivals: [0.012, 0.02], set: 0, later: 0 }
    expect(delaysToMeet([reference, near], [1, 0])).toEqual([0, expect.closeTo(0.008, 9)])
    expect(delaysToMeet([reference, { ...near, later: 0.01 }], [1, 0])[1]).toBeCloseTo(0.018, 9)
  })
  it('weigh several positions, and leave out where one is not known', () => {
    const near = { arrivals: [0.012, 0.026], set: 0, later: 0 }
    expect(delaysToMeet([reference, near], [1, 3])[1]).toBeCloseTo((0.008 + 3 * 0.004) / 4, 9)
    expect(delaysToMeet([reference, { ...near, arrivals: [null, 0.026] }], [1, 3])[1]).toBeCloseTo(0.004, 9)
  })
  it('delay the first where one comes too late, after all that is set for that one is taken away', () => {
    const far = { arrivals: [0.05, 0.06], set: 0.01, later: 0 }
    const by = delaysToMeet([reference, far], [1, 1])
    expect(by[1]).toBeCloseTo(-0.01, 9)
    expect(by[0]).toBeCloseTo(0.02, 9)
  })
  it('say when they are heard nowhere together', () => {
    expect(() => delaysToMeet([reference, { arrivals: [null, null], set: 0, later: 0 }], [1, 1])).toThrow(/nowhere/)
    expect(delaysToMeet([], [])).toEqual([])
  })
})
