import { describe, expect, it } from 'vitest'
import { cases } from '../reference/cases'
import { full, pass, shares, some, type Scene } from './testScenes'

/** Scenes of each kind, some seconds of sound in every one. */
const many = cases(12, 2)

describe('findings of seeded scenes', { timeout: 240_000 }, () => {
  it('noise over the signal is told as noise, never as reflections', () => {
    const scenes = some(many, n => ({ time: 0.3 + 0.08 * n, over: 6, noise: 5 + (n % 5), source: full }))
    const [room, noise] = shares(scenes, ['low-room'], ['low-noise'])
    expect(room).toBeLessThanOrEqual(0.02)
    expect(noise).toBeGreaterThanOrEqual(0.9)
  })
  it('a reverberant place is told as such, never as noise', () => {
    const scenes = some(many, n => ({ time: 1.6 + 0.1 * n, over: -7 - (n % 4), noise: -45, source: full }))
    const [noise, room] = shares(scenes, ['low-noise'], ['low-room'])
    expect(noise).toBeLessThanOrEqual(0.02)
    expect(room).toBeGreaterThanOrEqual(0.9)
  })
  it('of a good sub nothing is said: no reflection, no comb, no low coherence, no turned polarity', () => {
    const scenes = some(many, n => ({
      time: 0.4 + 0.05 * n,
      over: 8,
      source: pass(28 + (n % 5), 80 + 2 * n),
      lasts: 'narrow' as const,
    }))
    const amiss = ['low-noise', 'low-room', 'echo', 'comb', 'polarity', 'moved', 'swapped', 'mic-quiet']
    expect(shares(scenes, amiss)[0]).toBeLessThanOrEqual(0.02)
  })
  it('a low-passed mid is not heard twice', () => {
    const mids = some(many, n => ({ time: 0.5, over: 10, source: pass(200, 1500 + 100 * n) }))
    expect(shares(mids, ['comb'])[0]).toBeLessThanOrEqual(0.02)
  })
  it('a second arrival of a full-range source is told', () => {
    const twice = some(many, (n): Omit<Scene, 'seed'> =>
      ({ time: 0.5, over: 12, source: full, twice: [0.4 + 0.03 * n, 0.8] }))
    expect(shares(twice, ['comb', 'echo'])[0]).toBeGreaterThanOrEqual(0.9)
  })
  it('a mode that rings three times as long as the room is named', () => {
    const ringing = some(many, (n): Omit<Scene, 'seed'> =>
      ({ time: 0.5, over: 6, source: full, lasts: 'long', mode: [42 + 6 * n, 1.8 + 0.06 * n, 0.002] }))
    expect(shares(ringing, ['mode'])[0]).toBeGreaterThanOrEqual(0.9)
  })
  it('no mode is named in a room that has none', () => {
    const plain = some(many, n => ({ time: 0.4 + 0.06 * n, over: 6, source: full }))
    expect(shares(plain, ['mode'])[0]).toBeLessThanOrEqual(0.02)
  })
})
