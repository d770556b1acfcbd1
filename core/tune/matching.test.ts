import { describe, expect, it } from 'vitest'
import { gainActs, matchedAt, trimActs } from './index'

describe('where a source is matched', () => {
  it('is where it is loudest, unless another place is chosen at which it was heard', () => {
    expect(matchedAt([null, -30, -24])).toBe(2)
    expect(matchedAt([null, -30, -24], 1)).toBe(1)
    expect(matchedAt([null, -30, -24], 0)).toBe(2)
    expect(matchedAt([null, null])).toBe(-1)
  })
})

describe('what brings sources to a level', () => {
  it('is a gain in tenths of a decibel; what nobody hears is left out', () => {
    expect(gainActs([{ source: 'a', by: 1.26 }, { source: 'b', by: 0.04 }, { source: 'c', by: null }]))
      .toEqual([{ source: 'a', act: { kind: 'gain', by: 1.3 } }])
  })
  it('trims to a place by delay and attenuation alone', () => {
    expect(trimActs([{ source: 'a', delay: 0.002, by: -3 }, { source: 'b', delay: 1e-6, by: 2 }]))
      .toEqual([{ source: 'a', act: { kind: 'delay', by: 0.002 } }, { source: 'a', act: { kind: 'gain', by: -3 } }])
  })
})
