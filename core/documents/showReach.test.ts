import { expect, it } from 'vitest'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import { ropewalk as hall } from '../../standins/ropewalk/site'
import { applyEdit, showReach, unreachedInShow, type Documents } from './index'

const left: Documents = {
  ...hall.documents,
  ...Object.fromEntries(ropewalkDevices.map(d => [`held/${d.id}`, d.delivered])),
}
const set = (documents: Documents, path: string, value: unknown) =>
  applyEdit(documents, { document: 'held/processor', path, new: value })

it('tells which loudspeakers no console feed reaches, and how loud the others are', () => {
  const reached = Object.fromEntries(showReach(left)!.map(r => [r.name, r.feeds]))
  expect(reached['Main L']!.map(f => f.name)).toEqual(['Console left'])
  expect(unreachedInShow(left)).toContain('Delay L')
  expect(unreachedInShow(left)).not.toContain('Main L')
  // a mute on the way, a crosspoint that is taken out, and one that is put in
  expect(unreachedInShow(set(set(left, '/outputs/0/mute', true), '/outputs/1/mute', true))).toContain('Main L')
  const fed = set(left, '/matrix/1/8', -3)
  const names = unreachedInShow(left)!.filter(n => !unreachedInShow(fed)!.includes(n))
  expect(names).toHaveLength(1)
  const level = (documents: Documents) => showReach(documents)!.find(r => r.name === names[0])!.feeds[0]!.level
  expect(level(set(fed, '/matrix/1/8', -9)) - level(fed)).toBeCloseTo(-6, 6)
})
it('a site whose only feed is Kovrin’s own has no show to reach', () => {
  const feeds = { test: { name: 'Kovrin’s signal', from: { device: 'interface', channel: 0 } } }
  expect(showReach(applyEdit(left, { document: 'wiring', path: '/feeds', new: feeds }))).toBeNull()
})
