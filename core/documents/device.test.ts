import { describe, expect, it } from 'vitest'
import { connectionsOf, type LinkState } from './device'

describe('connections at a glance', () => {
  const device = (id: string, address = `10.0.0.1:${id}`) => ({ id, name: `Amp ${id}`, address })
  const links = (states: Record<string, LinkState['state']>) => (id: string) => states[id] ?? 'live'
  it('a device that has no address yet is planned, not missing', () => {
    expect(connectionsOf([], links({}))).toEqual({ state: 'none' })
    expect(connectionsOf([device('1', '')], links({ 1: 'searching' }))).toEqual({ state: 'unplaced' })
    expect(connectionsOf([device('1', ''), device('2')], links({ 1: 'searching' })))
      .toEqual({ state: 'in-step', all: 1 })
  })
  it('one that is not in step is named with what its link says, several are counted', () => {
    const all = ['1', '2', '3'].map(id => device(id))
    expect(connectionsOf(all, links({ 2: 'lost' }))).toEqual({ state: 'one', device: 'Amp 2', link: 'lost' })
    expect(connectionsOf(all, links({ 2: 'lost', 3: 'reading' }))).toEqual({ state: 'several', lost: 2, all: 3 })
  })
})
