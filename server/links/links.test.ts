import { mkdtempSync } from 'node:fs'
import { connect, createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sql } from 'drizzle-orm'
import { afterAll, beforeAll, expect, it, vi } from 'vitest'
import { contentOf, type LinkState } from '../../core/documents'
import { runDevice } from '../../standins/device/device'
import { ropewalk } from '../../standins/ropewalk/site'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import { actorOf } from '../store/actor'
import { database } from '../store/client'
import { makeEdits } from '../store/edits'
import { Passage } from '../store/gate'
import { foreignDevice, levelPath, type Manners } from '../testing/ocaDevice'
import { ann, closeTestDatabase, demoSite, documentsOf, openTestDatabase } from '../testing/database'
import { confirmAddress } from './addresses'
import { takeClaim } from './claims'
import { drive } from './driving'
import { claimsOf, lookAtDevices, ownedOf, startLinks, stopLinks } from './links'
import { ocaDriver } from './ocaDriver'

beforeAll(async () => {
  await openTestDatabase()
  await startLinks()
})
afterAll(async () => {
  await stopLinks()
  await closeTestDatabase()
})

const amplifier = ropewalkDevices.find(d => d.id === 'amp-c')!
const device = (folder: string, port = 0) => runDevice(amplifier, folder, port)
const folder = () => mkdtempSync(join(tmpdir(), 'kovrin-device-'))
/** A site whose one device that is not simulated is at this address. */
const siteWith = (address: string) =>
  demoSite({ 'device/amp-c': { ...contentOf(ropewalk.documents, 'device', 'amp-c')!, address } })
const linkOf = async (site: string): Promise<LinkState | undefined> =>
  contentOf(await documentsOf(site), 'link', 'amp-c')
const stateOf = async (site: string) => (await linkOf(site))?.state

it('a device is reached once its address is confirmed, and driven; gone, its wish stays a draft', async () => {
  const at = folder()
  const amp = await device(at)
  const site = await siteWith(`127.0.0.1:${amp.port}`)
  await expect.poll(() => stateOf(site)).toBe('unconfirmed')
  expect((await linkOf(site))!.why).toMatch(/on this machine.*confirmed/)
  await confirmAddress(`127.0.0.1:${amp.port}`, 'Ann')
  await expect.poll(() => stateOf(site)).toBe('live')
  const path = '/outputs/0/gain'
  const edit = async (old: number | undefined, value: number) =>
    makeEdits(site, { edits: [{ document: 'settings/amp-c', path, old, new: value }], gesture: null, live: true }, ann)
  const old = contentOf(await documentsOf(site), 'settings', 'amp-c')?.[path] as number | undefined
  expect(await edit(old, -7)).toMatchObject({ ok: true })
  const number = actorOf(site).number
  expect(await drive(site, 'amp-c', { paths: [path], readBack: true, number })).toEqual({ sent: [path], left: [] })
  amp.close()
  await expect.poll(() => stateOf(site)).toBe('lost')
  expect(await drive(site, 'amp-c', { paths: [path], readBack: false, number }))
    .toEqual({ sent: [], left: [{ path, why: expect.saying(/draft/) as string }] })
})

it('a device that is lost while nothing can be stored is said to be lost as soon as something can', async () => {
  const amp = await device(folder())
  const address = `127.0.0.1:${amp.port}`
  const site = await siteWith(address)
  await confirmAddress(address, 'Ann')
  await expect.poll(() => stateOf(site)).toBe('live')
  const away = vi.spyOn(actorOf(site), 'do').mockRejectedValue(new Error('Connection terminated unexpectedly'))
  amp.close()
  // that it was closed, and that nobody answers any more: all that there is to say of it
  await expect.poll(() => away.mock.calls.length).toBeGreaterThanOrEqual(2)
  expect(await stateOf(site)).toBe('live')
  away.mockRestore()
  await expect.poll(() => stateOf(site)).toBe('lost')
})

/** Another way to a device: whatever comes to its port is handed on, so many milliseconds later. */
async function detour(port: number, later = 0) {
  const server = createServer((from) => {
    const to = connect(port, '127.0.0.1')
    from.on('data', (words) => {
      setTimeout(() => to.write(words), later)
    })
    from.on('close', () => to.destroy())
    to.pipe(from)
    for (const end of [from, to]) end.on('error', () => [from, to].forEach(s => s.destroy()))
  })
  await new Promise<void>(done => server.listen(0, '127.0.0.1', done))
  return { address: `127.0.0.1:${(server.address() as { port: number }).port}`, close: () => server.close() }
}

it('a device is driven by one site, whatever address the others reach it by', async () => {
  const amp = await device(folder())
  const other = await detour(amp.port)
  const addresses = [`127.0.0.1:${amp.port}`, `localhost:${amp.port}`, `[::ffff:127.0.0.1]:${amp.port}`, other.address]
  for (const address of addresses) await confirmAddress(address, 'Ann')
  const [first, ...others] = await Promise.all(addresses.map(siteWith)) as [string, ...string[]]
  await lookAtDevices()
  const driving = async () => {
    const states = await Promise.all([first, ...others].map(stateOf))
    return [states.filter(s => s === 'live').length, states.filter(s => s === 'elsewhere').length]
  }
  await expect.poll(driving).toEqual([1, addresses.length - 1])
  // and taken over by the way that only the device itself tells to be the same
  const last = others.at(-1)!
  if (await stateOf(last) !== 'live') await takeClaim(await claimsOf(other.address), last, 'amp-c')
  await lookAtDevices()
  await expect.poll(() => stateOf(last)).toBe('live')
  await expect.poll(driving).toEqual([1, addresses.length - 1])
  other.close()
  amp.close()
})

it('a wish that waits for its link to come back goes out once, and nothing that is read on its way up is kept',
  async () => {
    const path = '/outputs/0/gain'
    const amp = await device(folder())
    const { address, close } = await detour(amp.port, 20)
    const site = await siteWith(address)
    await confirmAddress(address, 'Ann')
    await expect.poll(() => stateOf(site)).toBe('live')
    await drafted(site, path, -60)
    await drive(site, 'amp-c', { paths: [path], readBack: true, number: actorOf(site).number })
    await drafted(site, path, -6)
    const seen: number[] = []
    const other = await ocaDriver(`127.0.0.1:${amp.port}`, {
      held: told => seen.push(...told.filter(t => t.path === path).map(t => t.value as number)),
      housekeeping: () => {},
      lost: () => {},
    })
    await other.read()
    // its lock goes with the connection to the database: the link is opened anew
    await database().execute(sql`select pg_terminate_backend(pid) from pg_locks where locktype = 'advisory'
      and database = (select oid from pg_database where datname = current_database())`)
    await vi.waitUntil(() => !ownedOf(site, 'amp-c'), { interval: 1 })
    const driven = drive(site, 'amp-c', { paths: [path], readBack: false, number: actorOf(site).number })
    expect(await driven).toEqual({ sent: [path], left: [] })
    const now = await documentsOf(site)
    expect([contentOf(now, 'settings', 'amp-c')![path], contentOf(now, 'held', 'amp-c')![path]]).toEqual([-6, -6])
    await expect.poll(() => seen.at(-1)).toBe(-6)
    expect(seen).toEqual(seen.toSorted((a, b) => a - b))
    other.close()
    close()
    amp.close()
  })

const drafted = async (site: string, path: string, value: number | boolean) => {
  const { 'settings/amp-c': draft } = await documentsOf(site) as Record<string, Record<string, unknown>>
  const edits = [{ document: 'settings/amp-c', path, old: draft![path], new: value }]
  expect(await makeEdits(site, { edits, gesture: null, live: false }, ann)).toMatchObject({ ok: true })
}

/** A site whose amplifier is of somebody else’s making, in step with it. */
async function siteWithForeign(manners: Manners, gain: number) {
  const device = await foreignDevice(manners)
  device.gain = gain
  const site = await siteWith(device.address)
  await confirmAddress(device.address, 'Ann')
  await expect.poll(() => stateOf(site)).toBe('live')
  return { device, site }
}
const heldLevel = async (site: string) => contentOf(await documentsOf(site), 'held', 'amp-c')?.[levelPath]

it('what a device tells right behind what is read of it is newer than that, at every reading', async () => {
  const { device, site } = await siteWithForeign({
    after: ({ name }, at) => {
      if (name === 'GetGain') at.tell(-3)
    },
  }, -12)
  for (let n = 0; n < 5; n++) {
    await ownedOf(site, 'amp-c')!.link.compare()
    await expect.poll(() => heldLevel(site)).toBe(-3)
  }
  device.close()
})

it('a device that says yes and keeps another value: the wish stays, the difference is told', async () => {
  const keeps = -12
  const { device, site } = await siteWithForeign({
    isMute: true,
    after: (_, at) => {
      at.gain = keeps
    },
  }, keeps)
  await drafted(site, levelPath, -27)
  const { number } = actorOf(site)
  expect(await drive(site, 'amp-c', { paths: null, readBack: true, number }))
    .toEqual({ sent: [], left: [{ path: levelPath, why: expect.saying(/holds −12\.0 dB all the same/) as string }] })
  const both = async () =>
    [contentOf(await documentsOf(site), 'settings', 'amp-c')![levelPath], await heldLevel(site)]
  expect(await both()).toEqual([-27, keeps])
  // live it is read back as well
  await drafted(site, levelPath, -29)
  expect(await drive(site, 'amp-c', { paths: [levelPath], readBack: false, number: actorOf(site).number }))
    .toEqual({ sent: [levelPath], left: [] })
  await expect.poll(both).toEqual([-29, keeps])
  device.close()
})

it('a device that refuses one value, or tells what cannot be: the good kept, the bad named', async () => {
  const mute = '/main/Mute'
  const { device, site } = await siteWithForeign({ before: ({ name }) => (name === 'SetState' ? 8 : undefined) }, -40)
  await drafted(site, levelPath, -37)
  await drafted(site, mute, true)
  const { number } = actorOf(site)
  expect(await drive(site, 'amp-c', { paths: [levelPath, mute], readBack: false, number }))
    .toEqual({ sent: [levelPath], left: [{ path: mute, why: expect.saying(/no such setting/) as string }] })
  device.tell(Infinity)
  await expect.poll(async () => (await linkOf(site))?.misfits.join(' ')).toMatch(/gain.*cannot be/i)
  expect(await heldLevel(site)).toBe(-37)
  expect(await stateOf(site)).toBe('live')
  // what it really is is not known: −37 dB may be much louder, and is asked for
  const wish = { device: 'amp-c', path: levelPath, value: -37 }
  const now = await documentsOf(site)
  const refused = await new Passage(site).admit(now, [wish])
  expect(refused).toMatchObject({ status: 'louder', why: expect.saying(/not known by how much/) as string })
  const rises = refused?.status === 'louder' ? refused.rises : []
  expect(await new Passage(site, rises).admit(now, [wish])).toBeNull()
  device.tell(-39)
  await expect.poll(async () => (await linkOf(site))?.unknown).not.toContain(levelPath)
  expect(await new Passage(site).admit(await documentsOf(site), [wish])).toBeNull()
  device.close()
})
