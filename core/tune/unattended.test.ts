import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  resting, unattendedAfter, visitingOrder, type Tuning, type UnattendedEvent,
} from './index'
import { inWords } from '../words'

const tuning: Tuning = { proposals: [], notes: [inWords('From the search.')], before: null, after: null }
const after = (...events: UnattendedEvent[]) => events.reduce(unattendedAfter, resting)
const start = (visits: string[], here: string | null = null): UnattendedEvent => ({ type: 'start', visits, here })
const measured = (...failed: string[]): UnattendedEvent =>
  ({ type: 'measured', failed: failed.map(inWords) })

describe('work that goes on by itself', () => {
  it('measures, asks for the microphone to be moved, measures, computes, and shows what it proposes', () => {
    const events: UnattendedEvent[] = [
      start(['mix', 'rear'], 'mix'), measured('Sub at mix: silent'), { type: 'moved' }, measured(),
      { type: 'progress', part: 0.5, what: inWords('delays') }, { type: 'proposed', tuning },
    ]
    expect(events.map((_, n) => after(...events.slice(0, n + 1)).status))
      .toEqual(['measuring', 'moving', 'measuring', 'computing', 'computing', 'proposals'])
    expect(after(...events).tuning!.notes).toEqual([inWords('From the search.'), inWords('Sub at mix: silent')])
  })
  it('asks at once where the microphone stands elsewhere, and computes at once where nothing is to be measured', () => {
    expect(after(start(['mix'], 'rear')).status).toBe('moving')
    expect(after(start(['mix'], null)).status).toBe('measuring')
    expect(after(start([])).status).toBe('computing')
  })
  it('is at rest again when it is ended on its way, or settled; proposals that are shown stay', () => {
    expect(after(start(['mix']), { type: 'end' })).toEqual(resting)
    expect(after(start([]), { type: 'proposed', tuning }, { type: 'end' }).status).toBe('proposals')
    expect(after(start([]), { type: 'proposed', tuning }, { type: 'settled' })).toEqual(resting)
  })
  it('a proposal is left out and taken in again; a new search picks all', () => {
    const left = after(start([]), { type: 'proposed', tuning }, { type: 'toggle', proposal: 'a' })
    expect(left.left).toEqual(['a'])
    expect(unattendedAfter(left, { type: 'toggle', proposal: 'a' }).left).toEqual([])
    expect(unattendedAfter(left, start([])).left).toEqual([])
  })
  it('whatever comes, nothing is proposed that was not computed, and no position is skipped', () => {
    const event = fc.constantFrom<UnattendedEvent>(
      start(['a', 'b', 'c'], 'a'), { type: 'moved' }, measured(), { type: 'proposed', tuning },
      { type: 'end' }, { type: 'settled' },
    )
    fc.assert(fc.property(fc.array(event, { maxLength: 60 }), (events) => {
      let now = resting
      for (const e of events) {
        const next = unattendedAfter(now, e)
        if (next.status === 'proposals' && now.status !== 'proposals')
          expect([now.status, now.tuning !== null || e.type === 'proposed']).toEqual([now.status, true])
        if (next.at !== now.at && next.at !== 0) expect(next.at).toBe(now.at + 1)
        if (next.status === 'measuring') expect(next.at).toBeLessThan(next.visits.length)
        now = next
      }
    }))
  })
})

describe('where a microphone is put in turn', () => {
  const positions = ['a', 'b', 'c', 'd'].map(id => ({ id, weight: id === 'd' ? 0 : 1 }))
  const all = { fixed: [], walking: true, here: undefined, isNeeded: () => true }
  it('begins where it stands, and leaves out what does not count and what is fresh', () => {
    expect(visitingOrder(positions, { ...all, here: 'b' })).toEqual(['b', 'a', 'c'])
    expect(visitingOrder(positions, { ...all, isNeeded: p => p === 'c' })).toEqual(['c'])
  })
  it('leaves out where microphones stand: one visit hears them all', () => {
    expect(visitingOrder(positions, { ...all, fixed: ['a'] })).toEqual(['b', 'c'])
    expect(visitingOrder(positions, { ...all, fixed: ['a', 'b'], walking: false })).toEqual(['a'])
    expect(visitingOrder(positions, { ...all, fixed: ['a'], isNeeded: p => p === 'a' })).toEqual(['a'])
    expect(visitingOrder(positions, { ...all, fixed: ['d'], walking: false })).toEqual([])
  })
})
