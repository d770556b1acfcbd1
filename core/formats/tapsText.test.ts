import { describe, expect, it } from 'vitest'
import { readTaps, writeTaps } from './tapsText'

describe('coefficients as text', () => {
  it('come back as the same single-precision numbers', () => {
    const taps = Array.from({ length: 300 }, (_, n) => Math.fround(Math.sin(n) / (1 + n)))
    expect(readTaps(writeTaps(taps, 96_000)).map(Math.fround)).toEqual(taps)
  })
  it('are taken apart by blanks, commas or lines, with what follows # left out', () => {
    expect(readTaps('# made by hand\n1, 0.5 # middle\n−0.25;1e-3')).toEqual([1, 0.5, -0.25, 0.001])
  })
  it.each([
    ['', /no coefficient/],
    ['1\n0.5\ntwo', /Line 3: “two”/],
    ['0 '.repeat(70_000), /More than 65535/],
  ])('refuses what is none', (text, words) => {
    expect(() => readTaps(text)).toThrow(words)
  })
})
