import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, it, vi } from 'vitest'
import { contentOf, type LinkState } from '../../core/documents'
import { runDevice } from '../../standins/device/device'
import { ropewalk } from '../../standins/ropewalk/site'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import { actorOf } from '../store/actor'
import { makeEdits } from '../store/edits'
import { ann, closeTestDatabase, demoSite, documentsOf, openTestDatabase } from '../testing/database'
import { confirmAddress } from './addresses'
import { drive, startLinks, stopLinks } from './links'

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
    .toEqual({ sent: [], left: [{ path, why: expect.stringMatching(/draft/) as string }] })
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
