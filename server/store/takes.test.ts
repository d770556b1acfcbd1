import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { allOf, contentOf, rigOf, type Take } from '../../core/documents'
import { standardGrid } from '../../core/dsp'
import { encodeTake } from '../../core/formats/take'
import { createStalenessTable, isStale } from '../../core/rig'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import { keepRead } from '../links/keeping'
import { ann, ben, closeTestDatabase, demoSite, documentsOf, openTestDatabase } from '../testing/database'
import { actorOf } from './actor'
import { makeEdits } from './edits'
import { siteFileOf } from './siteFile'
import { importSite, openSite, readSnapshots } from './sites'
import { keepTake } from './takes'
import { undo } from './undo'
import { message } from '../../core/words'

beforeAll(openTestDatabase)
afterAll(closeTestDatabase)

const zeros = new Float64Array(standardGrid.length)
const bytes = Buffer.from(encodeTake({
  curve: { frequencies: standardGrid, re: zeros, im: zeros, coherence: null },
  impulse: null,
  harmonics: [],
  signalToNoise: [],
}))
const info = {
  method: 'live' as const,
  input: 'test',
  sampleRate: 48_000,
  length: 16_384,
  blocks: 8,
  arrival: 0.03,
  microphoneLevel: -30,
  referenceLevel: -20,
  sweep: null,
}
const timing = { reference: 'loopback', sameClock: true, drift: null, delay: 0.03 }

async function connected() {
  const site = await demoSite()
  for (const { id, capability, delivered } of ropewalkDevices) await keepRead(site, id, capability, delivered)
  return site
}
const keep = async (site: string, more: object = {}) =>
  keepTake(site, {
    source: 'main-l', position: 'mix', only: null, feed: 'test', info, timing,
    number: (await actorOf(site).read())!.number, ...more,
  }, bytes, ann)
const set = (site: string, path: string, old: unknown, value: unknown) =>
  makeEdits(site, { edits: [{ document: 'held/processor', path, old, new: value }], gesture: null, live: false }, ann)

async function textOf(site: string): Promise<string> {
  let text = ''
  for await (const piece of (await siteFileOf(site))!) text += piece
  return text
}

describe('takes', () => {
  it('made with the same settings share one snapshot, however many they are', async () => {
    const site = await connected()
    for (let n = 0; n < 3; n++) expect(await keep(site)).toMatchObject({ ok: true })
    const takes = allOf(await documentsOf(site), 'take')
    expect(new Set(takes.map(t => t.snapshot)).size).toBe(1)
    expect(takes.map(t => t.name)).toEqual(['', ', take 2', ', take 3'].map(n => `Main L · Mix desk${n}`))
    const then = (await readSnapshots([takes[0]!.snapshot!])).get(takes[0]!.snapshot!)!
    expect(Object.keys(then.rig.devices).sort()).toEqual(['amp-a', 'processor'])
  })
  it('are kept once however often they are sent, and no other may have their id', async () => {
    const site = await connected()
    const { number } = (await actorOf(site).read())!
    const id = crypto.randomUUID()
    const sent = await Promise.all([1, 2].map(() => keep(site, { id, number })))
    await keepReadOf(site, '/outputs/1/gain', undefined, -3) // what is sent again was measured before
    sent.push(await keep(site, { id, number }))
    const [first] = sent
    expect(first).toMatchObject({ ok: true, take: { id, source: 'main-l' } })
    for (const again of sent) expect(again).toMatchObject({ ok: true, take: (first as { take: Take }).take })
    expect(allOf(await documentsOf(site), 'take')).toHaveLength(1)
    const other = await keep(site, { id, source: 'main-r', number: number + 1 })
    expect(other).toMatchObject({ ok: false, status: 'refused', why: message('take.twice') })
  })
  it('are refused when something on their path has changed since the measuring began, and only then', async () => {
    const site = await connected()
    const { number } = (await actorOf(site).read())!
    const edit = (path: string, old: unknown, value: unknown) => keepReadOf(site, path, old, value)
    await edit('/outputs/9/gain', undefined, -3) // Foyer: not on Main L's path
    expect(await keep(site, { number })).toMatchObject({ ok: true })
    await edit('/outputs/1/gain', undefined, -3)
    expect(await keep(site, { number })).toMatchObject({ ok: false, why: expect.saying('System processor') })
  })
  /** The processor holds another value now. */
  async function keepReadOf(site: string, path: string, _: unknown, value: unknown) {
    const held = contentOf(await documentsOf(site), 'held', 'processor')!
    const { capability } = ropewalkDevices.find(d => d.id === 'processor')!
    await keepRead(site, 'processor', capability, { ...held, [path]: value })
  }
  it('what was measured cannot be changed, and what a device holds cannot be said by a person', async () => {
    const site = await connected()
    const kept = await keep(site)
    const id = (kept as { take: Take }).take.id
    const edits = [{ document: `take/${id}`, path: '/timing/delay', old: 0.03, new: 0.04 }]
    expect(await makeEdits(site, { edits, gesture: null, live: false }, ann)).toMatchObject({ ok: false })
    expect(await set(site, '/outputs/0/gain', undefined, -3)).toMatchObject({ ok: false })
  })
  it('are taken back by whoever took them, and by nobody else', async () => {
    const site = await connected()
    await keep(site)
    expect(await undo(site, false, false, ben)).toMatchObject({ status: 'nothing' })
    expect(await undo(site, false, false, ann)).toMatchObject({ status: 'done' })
    expect(allOf(await documentsOf(site), 'take').filter(t => !t.deleted)).toEqual([])
  })
  it('500 of them open in under 1 MB, and a site file brings all of them back', async () => {
    const site = await connected()
    await keep(site)
    const [take] = allOf(await documentsOf(site), 'take')
    const many = Object.fromEntries(Array.from({ length: 500 }, (_, n) => {
      const id = `copy-${n}`
      return [`take/${id}`, { ...take!, id, name: `${take!.name} ${n}`, note: 'doors open' }]
    }))
    const big = await demoSite({ ...(await documentsOf(site)), ...many })
    const opened = JSON.stringify(await openSite(big))
    expect(opened.length).toBeLessThan(1_000_000)
    const rig = rigOf((await openSite(big))!.documents, 'held')
    const then = (await readSnapshots([take!.snapshot!])).get(take!.snapshot!)!
    const table = createStalenessTable()
    const answers = Array.from({ length: 500 }, () => table(then, rig, 'main-l', null, id => id))
    expect(answers.some(isStale)).toBe(false)
    // all of one snapshot share one comparison: the very same answer
    expect(new Set(answers.map(a => a.settings)).size).toBe(1)
    const again = await importSite(JSON.parse(await textOf(site)), ann)
    expect(allOf(await documentsOf(again), 'take')).toEqual(allOf(await documentsOf(site), 'take'))
  })
})
