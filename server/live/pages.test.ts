import { afterAll, beforeAll, expect, it, vi } from 'vitest'
import type { LiveMessage } from '../../core/contract'
import { makeEdits } from '../store/edits'
import { ann, closeTestDatabase, demoSite, openTestDatabase } from '../testing/database'
import { close, hear, hushSite, open, sweepLines } from './pages'

beforeAll(openTestDatabase)
afterAll(closeTestDatabase)

/** A page's line whose reading is told by hand. */
function page(site: string, key = 'page', who?: string) {
  const told: LiveMessage[] = []
  let unread = 0
  const drop = vi.fn()
  const line = { send: (text: string) => told.push(JSON.parse(text) as LiveMessage), unread: () => unread, drop }
  const id = {}
  const taken = open(id, site, key, line, who)
  return { told, drop, id, taken, stopReading: () => (unread = 2 ** 30) }
}
const set = (site: string, old: number, value: number) => {
  const edits = [{ document: 'settings/processor', path: '/outputs/0/gain', old, new: value }]
  return makeEdits(site, { edits, gesture: null, live: false }, ann)
}
const numbersOf = (told: readonly LiveMessage[]) =>
  told.flatMap(m => (m.type === 'changes' ? m.changes.map(c => c.number) : []))

it('a page that reads nothing is let go, and misses nothing when it comes back', async () => {
  const site = await demoSite()
  const slow = page(site)
  hear(slow.id, JSON.stringify({ type: 'follow', number: 0 }))
  await vi.waitFor(() => expect(slow.told[0]).toEqual({ type: 'hello', number: 0 }))
  await set(site, 0, -1)
  expect(numbersOf(slow.told)).toEqual([1])
  slow.stopReading()
  await set(site, -1, -2)
  expect(slow.drop).toHaveBeenCalledTimes(1)
  await set(site, -2, -3)
  expect(numbersOf(slow.told)).toEqual([1])
  close(slow.id)
  const again = page(site)
  hear(again.id, JSON.stringify({ type: 'follow', number: 1 }))
  await vi.waitFor(() => expect(numbersOf(again.told)).toEqual([2, 3]))
  close(again.id)
})
it('of one page the oldest line makes room; of all there are only so many; a silent one is let go', async () => {
  const site = await demoSite()
  const lines = Array.from({ length: 6 }, () => page(site))
  expect(lines.map(l => l.drop.mock.calls.length)).toEqual([1, 1, 0, 0, 0, 0])
  const others = Array.from({ length: 600 }, (_, n) => page(site, `page ${n}`))
  const refused = others.filter(o => !o.taken).length
  expect(refused).toBe(600 - (500 - 4))
  sweepLines(Date.now() + 120_000)
  expect(lines.at(-1)!.drop).toHaveBeenCalled()
  expect(page(site).taken).toBe(true)
})
it('while a page sounds the others of its site are told who, what and how long, and it is given the word', async () => {
  const site = await demoSite()
  const [sounds, other, elsewhere] = [page(site, 'a'), page(site, 'b'), page(await demoSite(), 'c')]
  const said = { who: 'Ann', what: 'sweep 2 of 8', left: 30 }
  for (let n = 0; n < 3; n++) hear(sounds.id, JSON.stringify({ type: 'sounding', ...said }))
  expect(sounds.told).toEqual(Array.from({ length: 3 }, () => ({ type: 'sound' })))
  expect(other.told).toEqual([{ type: 'other', page: 'a', ...said }])
  expect(elsewhere.told).toEqual([])
  hear(sounds.id, JSON.stringify({ type: 'sounding', who: 'Ann' }))
  expect(sounds.told).toHaveLength(3)
  for (const { id } of [sounds, other, elsewhere]) close(id)
})
it('one asker has its share of the lines, and a burst of wishes to follow is one', async () => {
  const site = await demoSite()
  const own = Array.from({ length: 150 }, (_, n) => page(site, `page ${n}`, 'one'))
  expect(own.filter(o => o.taken)).toHaveLength(100)
  const other = page(site, 'other', 'another')
  expect(other.taken).toBe(true)
  for (let n = 0; n < 3000; n++) hear(other.id, JSON.stringify({ type: 'follow', number: 0 }))
  await vi.waitFor(() => expect(other.told.length).toBe(2))
  await set(site, 0, -1)
  await vi.waitFor(() => expect(numbersOf(other.told)).toEqual([1]))
  expect(other.told.filter(m => m.type === 'hello')).toHaveLength(2)
  for (const { id } of [...own, other]) close(id)
})
it('what is not of the contract is passed over', async () => {
  const line = page(await demoSite())
  const odd = ['', '{', '[]', '{"type":"dance"}', '{"type":"follow","number":-1}', '{"type":"follow","number":1e99}']
  for (const text of odd) hear(line.id, text)
  hear(line.id, '{"type":"ping"}')
  expect(line.told).toEqual([{ type: 'pong' }])
})
it('Hush is told to every page of the site and to no other; who sounds hears that it may go on', async () => {
  const [site, other] = [await demoSite(), await demoSite()]
  const [a, b, c] = [page(site, 'a'), page(site, 'b'), page(other, 'c')]
  hear(a.id, '{"type":"sounding","who":"Ann","what":"noise","left":null}')
  expect(a.told).toEqual([{ type: 'sound' }])
  hear(b.id, '{"type":"hush"}')
  expect(a.told.at(-1)).toEqual({ type: 'hush' })
  expect(b.told.map(m => m.type)).toEqual(['other', 'hush'])
  hushSite(site)
  expect(a.told.filter(m => m.type === 'hush')).toHaveLength(2)
  expect(c.told).toEqual([])
})
