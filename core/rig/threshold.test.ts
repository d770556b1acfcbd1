import { describe, expect, it } from 'vitest'
import { parseThreshold, type LimiterPlace } from './index'

const place: LimiterPlace = { connector: 6.15, loudspeaker: 89, ohms: 8 }
const nowhere: LimiterPlace = { connector: null, loudspeaker: null, ohms: null }

describe('a limiter’s threshold, typed in the unit of its place', () => {
  it.each([
    ['-6', -6],
    ['−6 dBFS', -6],
    ['18 dBu', 0], // 0 dBu is √0.6 V (IEC 60268-17): +18 dBu are 6.15 V
    ['44.5 V', -6.02],
    ['990 W', 0], // 89² V² / 8 Ω
    ['0.5v', -45.0],
  ])('%s is %f dBFS', (text, level) => {
    const read = parseThreshold(text, place, 'peak')
    expect(read.ok && Math.abs(read.value - level)).toBeLessThan(0.02)
    // dBFS are the detector's own; of a sine the RMS value is 3.01 dB below its peak
    const byRms = parseThreshold(text, place, 'rms')
    const isOwn = /^[-−]6( dBFS)?$/.test(text)
    expect(byRms.ok && Math.abs(byRms.value - (isOwn ? level : level - 3.01))).toBeLessThan(0.02)
  })
  it.each([
    ['loud', place, /Try/],
    ['-3 V', place, /above 0/],
    ['12 dBu', nowhere, /not known/],
    ['62 V', nowhere, /not known/],
    ['300 W', { ...place, ohms: null }, /impedance/],
  ])('%s is refused in words', (text, at, words) => {
    const read = parseThreshold(text, at, 'rms')
    expect(read).toMatchObject({ ok: false, why: expect.stringMatching(words) as string })
  })
})
