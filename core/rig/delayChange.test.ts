import { describe, expect, it } from 'vitest'
import { delayChange, type Settings } from './index'
import { feed, rigOf, tuned } from './testRig'

const by = (was: Settings, now: Settings, amp: Settings = {}, ampNow: Settings = {}) =>
  delayChange(rigOf(was, amp), rigOf(now, ampNow), [feed])
const both: Settings = { ...tuned, '/matrix/0/0': 0, '/matrix/0/2': 0 }

describe('what a change of settings does to what was heard', () => {
  it('a delay alone makes all of it later, by what the device does', () => {
    expect(by(tuned, { ...tuned, '/outputs/1/delay': 0.012 })).toBeCloseTo(0.007, 6)
    expect(by({ ...tuned, '/outputs/1/delay': 0.012 }, tuned)).toBeCloseTo(-0.007, 6)
    expect(by(tuned, tuned)).toBeCloseTo(0, 9)
  })
  it('what is silent has no say, and becomes another when it sounds', () => {
    expect(by(tuned, { ...tuned, '/outputs/0/delay': 0.05, '/outputs/2/gain': -20 })).toBeCloseTo(0, 9)
    expect(by(tuned, { ...tuned, '/matrix/0/0': 0 })).toBeNull()
    expect(by(tuned, { ...tuned, '/outputs/1/mute': true })).toBeNull()
    expect(by({}, {})).toBeNull()
  })
  it('where only some of what sounds is later, nothing is known', () => {
    expect(by(both, { ...both, '/outputs/1/delay': 0.012 })).toBeNull()
    const moved = { '/outputs/0/delay': 0.007, '/outputs/1/delay': 0.012, '/outputs/2/delay': 0.007 }
    expect(by(both, { ...both, ...moved })).toBeCloseTo(0.007, 6)
  })
  it.each<[string, Settings, Settings]>([
    ['level', { '/outputs/1/gain': -3.9 }, {}],
    ['polarity', { '/outputs/1/polarity': 'normal' }, {}],
    ['a narrow filter', { '/outputs/1/eq/0': { on: true, type: 'peaking', frequency: 900, gain: 1, q: 8 } }, {}],
    ['the amplifier’s level', {}, { '/outputs/1/gain': -1 }],
  ])('%s beside the delay is more than a delay', (_, change, amp) => {
    expect(by(tuned, { ...tuned, '/outputs/1/delay': 0.012, ...change }, {}, amp)).toBeNull()
  })
})
