import { describe, expect, it } from 'vitest'
import { ropewalk } from '../../standins/ropewalk/site'
import { allOf, contentOf, openFindings, tellsCell, type Documents, type LinkState, type Take } from './index'
import { wordsOf } from '../words'

const live: LinkState = { state: 'live', why: null, since: '2026-01-01T00:00:00.000Z', misfits: [], unknown: [] }
const devices = allOf(ropewalk.documents, 'device').map(d => d.id)
/** The demo with its devices there and holding what is wanted of them. */
const settled: Documents = {
  ...ropewalk.documents,
  ...Object.fromEntries(devices.flatMap(id => [
    [`link/${id}`, live],
    [`held/${id}`, contentOf(ropewalk.documents, 'settings', id) ?? {}],
  ])),
}

describe('what is open in a site', () => {
  it('is nothing where every device is there and holds what is wanted', () => {
    expect(openFindings(settled)).toEqual([])
  })
  it('names devices away, edits that wait, and sources that nothing drives, each by its number', () => {
    const wiring = contentOf(settled, 'wiring')!
    const drives = Object.fromEntries(Object.entries(wiring.drives).filter(([key]) => !key.startsWith('subs:')))
    const found = openFindings({
      ...settled,
      'link/processor': { ...live, state: 'lost', why: 'no answer' },
      'held/amp-a': { '/outputs/0/gain': -6, '/outputs/1/gain': -6 },
      'wiring': { ...wiring, drives },
    })
    expect(found.map(wordsOf)).toEqual(['1 device not connected', '2 unsent edits', '1 source that no output drives'])
  })
  it('counts no edit of a device that was never read', () => {
    const { 'held/amp-a': _, ...rest } = settled as Record<string, unknown>
    expect(openFindings({ ...rest, 'settings/amp-a': { '/outputs/0/gain': -6 } })).toEqual([])
  })
})

describe('a cell of the ledger', () => {
  const take = (method: Take['info']['method'], only: Take['only'] = null) => ({ info: { method }, only }) as Take
  it('is told by what was measured here of the whole source, and by nothing else', () => {
    expect([take('live'), take('sweep')].map(tellsCell)).toEqual([true, true])
    const others = [take('import'), take('average'), take('sweep', { device: 'amp-a', channel: 0 })]
    expect(others.map(tellsCell)).toEqual([false, false, false])
  })
})
