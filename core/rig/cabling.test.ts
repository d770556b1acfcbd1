import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { cablesBetween, channelsIn, inputsBehind } from './index'

const ends = (device: string, ...channels: number[]) => channels.map(channel => ({ device, channel }))

describe('cabling many at once', () => {
  it('channels are typed as people write them, counted from 1', () => {
    expect(channelsIn('3', 8)).toEqual([2])
    expect(channelsIn('1-4', 8)).toEqual([0, 1, 2, 3])
    expect(channelsIn('1 – 3, 7', 8)).toEqual([0, 1, 2, 6])
    expect(channelsIn('4-2; 1', 8)).toEqual([3, 2, 1, 0])
    expect(channelsIn('2,2,1-2', 8)).toEqual([1, 0])
  })
  it.each([
    ['', /Type channels/],
    ['all', /“all” is no channel/],
    ['1-', /“1-” is no channel/],
    ['0', /no channel 0 .* 1 to 8/],
    ['7-9', /no channel 9 .* 1 to 8/],
    ['1.5', /“1.5” is no channel/],
  ])('“%s” is refused with the reason', (text, words) => {
    expect(() => channelsIn(text, 8)).toThrow(words)
  })
  it('whatever is typed, what comes out is there and comes once', () => {
    fc.assert(fc.property(fc.string({ unit: fc.constantFrom(...'0123456789-–, ;x') }), fc.integer({ min: 1, max: 64 }),
      (text, count) => {
        try {
          const found = channelsIn(text, count)
          expect(new Set(found).size).toBe(found.length)
          for (const n of found) expect(n >= 0 && n < count).toBe(true)
        }
        catch (error) { expect(error).toBeInstanceOf(RangeError) }
      }))
  })
  it('goes one by one, or from one output to all; anything else is refused', () => {
    expect(cablesBetween(ends('dsp', 0, 1), ends('amp', 2, 3)))
      .toEqual({ 'amp:2': { device: 'dsp', channel: 0 }, 'amp:3': { device: 'dsp', channel: 1 } })
    expect(cablesBetween(ends('dsp', 5), ends('amp', 0, 1)))
      .toEqual({ 'amp:0': { device: 'dsp', channel: 5 }, 'amp:1': { device: 'dsp', channel: 5 } })
    expect(() => cablesBetween(ends('dsp', 0, 1), ends('amp', 0, 1, 2))).toThrow(/2 outputs .* 3 inputs/)
  })
  it('an output knows where its cables lead', () => {
    const cables = cablesBetween(ends('dsp', 5), ends('amp', 0, 1))
    expect(inputsBehind({ cables }, { device: 'dsp', channel: 5 })).toEqual(['amp:0', 'amp:1'])
    expect(inputsBehind({ cables }, { device: 'dsp', channel: 4 })).toEqual([])
  })
})
