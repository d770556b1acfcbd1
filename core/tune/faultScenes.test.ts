import { describe, expect, it } from 'vitest'
import { cases } from '../reference/cases'
import { full, observe, pass, shares, sharesOf, some, type Scene } from './testScenes'

const sources = [full, pass(28, 90), pass(200, 2000), pass(1400, 18_000)]
const rooms = (n: number) => ({
  time: 0.4 + 0.06 * n,
  over: 8,
  source: sources[n % sources.length]!,
  ...(n % sources.length === 1 ? { lasts: 'narrow' as const } : {}),
})

/** Scenes of each kind, of sources that play all or a part of the band: one of every source at least. */
const many = cases(12, 4)

describe('faults of wiring and setting in seeded scenes', { timeout: 240_000 }, () => {
  const fine = some(many, rooms).map(observe)
  /** The same scenes with a plan that puts the sound so much earlier. */
  const planned = (off: (n: number) => number) =>
    fine.map((seen, n) => ({ ...seen, expected: seen.expected! - off(n) }))
  it('of what is as it should be none of them is said', () => {
    const amiss = ['swapped', 'same', 'polarity', 'mic-flat', 'mic-clips', 'plan', 'unfed']
    expect(sharesOf(fine, amiss)[0]).toBeLessThanOrEqual(0.02)
  })
  it.each<[Scene['fault'], string[]]>([
    ['swapped', ['swapped']],
    ['same', ['same']],
    ['clipped', ['mic-flat']],
  ])('%s is said', (fault, ids) => {
    const loud = fault === 'swapped' ? { source: full, over: 12 } : {}
    const scenes = some(cases(12, 2), n => ({ ...rooms(n), fault, ...loud }))
    expect(shares(scenes, ids)[0]).toBeGreaterThanOrEqual(0.9)
  })
  it('a turned polarity is said, of whatever band tells it', () => {
    const scenes = some(cases(12, 3), n => ({ ...rooms(n % 2), time: 0.4 + 0.06 * n, fault: 'turned' as const }))
    expect(shares(scenes, ['polarity'])[0]).toBeGreaterThanOrEqual(0.9)
  })
  it('a plan that is off by more than it can be is doubted, early or late; one that is nearly right is not', () => {
    const off = planned(n => (n % 2 ? 1 : -1) * (0.006 + 0.001 * n))
    expect(sharesOf(off, ['plan'])[0]).toBeGreaterThanOrEqual(0.9)
    const near = planned(n => (n % 2 ? 1 : -1) * 0.0008)
    expect(sharesOf(near, ['plan'])[0]).toBeLessThanOrEqual(0.02)
  })
})
