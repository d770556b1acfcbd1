import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { contentOf, draftOf } from '../../core/documents'
import { noHousekeeping, parametersOf, type Capability } from '../../core/rig'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import { makeEdits } from '../store/edits'
import { ann, closeTestDatabase, demoSite, documentsOf, openTestDatabase } from '../testing/database'
import { claim, readClaims, takeClaim } from './claims'
import { keepHousekeeping, keepRead, keepTold } from './keeping'

beforeAll(openTestDatabase)
afterAll(closeTestDatabase)

const { capability, delivered } = ropewalkDevices.find(d => d.id === 'amp-b')!
const edit = (site: string, path: string, old: unknown, value: unknown) =>
  makeEdits(site, { edits: [{ document: 'settings/amp-b', path, old, new: value }], gesture: null, live: false }, ann)
const now = async (site: string) => {
  const documents = await documentsOf(site)
  return { draft: draftOf(documents, 'amp-b'), held: contentOf(documents, 'held', 'amp-b') }
}

/** The same device with two outputs and two EQ bands fewer. */
function smaller(): Capability {
  const has = (id: string) => !/^(inputs|outputs)\/[23]$/.test(id)
  return {
    ...capability,
    firmware: '2.0',
    inputs: capability.inputs.slice(0, 2),
    outputs: capability.outputs.slice(0, 2),
    strips: capability.strips.filter(s => has(s.id)).map(s => ({
      ...s,
      blocks: s.blocks.map(b => (b.kind === 'band' ? { ...b, count: 2 } : b)),
    })),
    sensors: capability.sensors.filter(s => !s.strip || has(s.strip)),
  }
}

describe('a device that is read', () => {
  it('fills a draft that nobody began, and leaves one that somebody brought along', async () => {
    const empty = await demoSite()
    await keepRead(empty, 'amp-b', capability, delivered)
    expect(await now(empty)).toEqual({ draft: delivered, held: delivered })
    const brought = await demoSite({ 'settings/amp-b': { '/outputs/0/gain': -7 } })
    await keepRead(brought, 'amp-b', capability, delivered)
    expect(await now(brought)).toEqual({ draft: { '/outputs/0/gain': -7 }, held: delivered })
  })
  it('and comes back changed: the draft follows where it had no edit of its own', async () => {
    const site = await demoSite()
    await keepRead(site, 'amp-b', capability, {})
    await edit(site, '/outputs/0/gain', 0, -3)
    await keepRead(site, 'amp-b', capability, { '/outputs/0/gain': -9, '/outputs/1/gain': -4 })
    expect(await now(site)).toEqual({
      draft: { '/outputs/0/gain': -3, '/outputs/1/gain': -4 },
      held: { '/outputs/0/gain': -9, '/outputs/1/gain': -4 },
    })
  })
  it('and is another unit than before: the draft stays whole, to be what the spare shall become', async () => {
    const site = await demoSite()
    const of = (serial: string) => ({ ...noHousekeeping, serial })
    await keepRead(site, 'amp-b', capability, { '/outputs/0/gain': -9 }, undefined, undefined, 'one')
    await keepHousekeeping(site, 'amp-b', of('one'))
    await edit(site, '/outputs/1/gain', 0, -3)
    const mine = { '/outputs/0/gain': -9, '/outputs/1/gain': -3 }
    const spare = { '/outputs/2/gain': -20 }
    const { isSpare } = await keepRead(site, 'amp-b', capability, spare, undefined, undefined, 'two')
    expect(isSpare).toBe(true)
    expect(await now(site)).toEqual({ draft: mine, held: spare })
    // it is known from then on, and what is turned at it is followed as ever
    await keepHousekeeping(site, 'amp-b', of('two'))
    const turned = { '/outputs/2/gain': -20, '/outputs/3/gain': -6 }
    expect((await keepRead(site, 'amp-b', capability, turned, undefined, undefined, 'two')).isSpare).toBe(false)
    expect(await now(site)).toEqual({ draft: { ...mine, '/outputs/3/gain': -6 }, held: turned })
  })
  it('and comes back with fewer channels and bands: taken as it is, what no longer fits is listed, nothing is lost',
    async () => {
      const site = await demoSite()
      await keepRead(site, 'amp-b', capability, {})
      await edit(site, '/outputs/3/gain', 0, -6)
      await edit(site, '/outputs/0/gain', 0, -2)
      const { left } = await keepRead(site, 'amp-b', smaller(), { '/outputs/1/mute': true })
      expect(left.join(' ')).toContain('utput 4')
      const { draft, held } = await now(site)
      expect(draft).toMatchObject({ '/outputs/3/gain': -6, '/outputs/0/gain': -2, '/outputs/1/mute': true })
      expect(held).toEqual({ '/outputs/1/mute': true })
      const device = contentOf(await documentsOf(site), 'device', 'amp-b')!
      expect([...parametersOf(device.capability).keys()].some(p => p.startsWith('/outputs/3/'))).toBe(false)
      // and back again: what was kept fits once more
      expect(await keepRead(site, 'amp-b', capability, {})).toEqual({ left: [], odd: new Map(), isSpare: false })
      expect((await now(site)).draft).toMatchObject({ '/outputs/3/gain': -6 })
    })
  it('that tells what cannot be keeps there what was known, and what it may mean elsewhere', async () => {
    const site = await demoSite()
    await keepRead(site, 'amp-b', capability, { '/outputs/0/gain': -20 })
    const { odd } = await keepRead(site, 'amp-b', capability, { '/outputs/0/gain': 'loud', '/outputs/1/gain': -4 })
    expect([...odd.keys()]).toEqual(['/outputs/0/gain'])
    expect((await now(site)).held).toEqual({ '/outputs/0/gain': -20, '/outputs/1/gain': -4 })
  })
  it('tells what somebody turned there, in its order; the last of one parameter stays', async () => {
    const site = await demoSite()
    await keepRead(site, 'amp-b', capability, {})
    const told = [-1, -2, -3].map(value => ({ path: '/outputs/2/gain', value, by: 'device' as const }))
    await keepTold(site, 'amp-b', told)
    expect(await now(site)).toEqual({ draft: { '/outputs/2/gain': -3 }, held: { '/outputs/2/gain': -3 } })
    await edit(site, '/outputs/2/gain', -3, -8)
    await keepTold(site, 'amp-b', [{ path: '/outputs/2/gain', value: -5, by: 'device' }])
    expect(await now(site)).toEqual({ draft: { '/outputs/2/gain': -8 }, held: { '/outputs/2/gain': -5 } })
  })
})

describe('one device, one site', () => {
  it('the first has it until another takes it over knowingly; a deleted site has none', async () => {
    const [a, b] = [await demoSite(), await demoSite()]
    const address = `10.0.0.${a}:99`
    expect(await claim(address, a, 'amp-b')).toMatchObject({ site: a })
    expect(await claim(address, b, 'amp-b')).toMatchObject({ site: a, name: 'Ropewalk Hall' })
    expect(await takeClaim([address], b, 'amp-b')).toBe(a)
    expect(await claim(address, a, 'amp-b')).toMatchObject({ site: b })
    const gone = { document: 'site', path: '/deleted', old: false, new: true }
    await makeEdits(b, { edits: [gone], gesture: null, live: false }, ann)
    expect((await readClaims()).has(address)).toBe(false)
    expect(await claim(address, a, 'amp-b')).toMatchObject({ site: a })
  })
})
