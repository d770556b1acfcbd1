import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { contentOf, type Rise } from '../../core/documents'
import type { DeviceAct, Housekeeping } from '../../core/rig'
import { runDevice, type RunningDevice } from '../../standins/device/device'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import { ropewalk } from '../../standins/ropewalk/site'
import { ann, closeTestDatabase, demoSite, documentsOf, openTestDatabase } from '../testing/database'
import { undo } from '../store/undo'
import { actOn } from './acts'
import { confirmAddress } from './addresses'
import { drivePreset } from './driving'
import { startLinks, stopLinks } from './links'
import { ocaDriver } from './ocaDriver'

const amplifier = ropewalkDevices.find(d => d.id === 'amp-a')!
const gain = '/outputs/0/gain'
let device: RunningDevice
let site: string
beforeAll(async () => {
  await openTestDatabase()
  await startLinks()
  device = await runDevice(amplifier, mkdtempSync(join(tmpdir(), 'kovrin-acts-')))
  const address = `127.0.0.1:${device.port}`
  await confirmAddress(address, 'Ann')
  site = await demoSite({ 'device/amp-a': { ...contentOf(ropewalk.documents, 'device', 'amp-a')!, address } })
})
afterAll(async () => {
  device.close()
  await stopLinks()
  await closeTestDatabase()
})

const act = (wish: DeviceAct, more: { agreed?: Rise[], blind?: boolean } = {}) =>
  actOn({ site, device: 'amp-a', act: wish, blind: false, agreed: [], ...more }, ann)
const state = async (): Promise<Housekeeping> => contentOf(await documentsOf(site), 'housekeeping', 'amp-a')!
const presetAt = async (slot: number) => (await state()).presets.find(p => p.slot === slot)
const held = async () => (await device.settings('default'))[gain]
const known = async () => contentOf(await documentsOf(site), 'held', 'amp-a')?.[gain]

it('a device shows itself, is called by a name, and has its front locked; each page hears of it', async () => {
  await expect.poll(async () => contentOf(await documentsOf(site), 'link', 'amp-a')?.state, { timeout: 20_000 })
    .toBe('live')
  expect(await state()).toMatchObject({ name: amplifier.name, identifying: false, front: 'open', recalled: null })
  expect(await act({ act: 'identify', on: true })).toBeNull()
  expect(await device.identifying('default')).toBe(true)
  expect(await act({ act: 'name', name: 'Flown left' })).toBeNull()
  expect(await act({ act: 'front', front: 'locked' })).toBeNull()
  await expect.poll(state).toMatchObject({ name: 'Flown left', identifying: true, front: 'locked' })
  await expect(device.turn('default', gain, -1)).rejects.toThrow(/locked/)
  expect(await act({ act: 'front', front: 'open' })).toBeNull()
  expect(await act({ act: 'identify', on: false })).toBeNull()
})

it('a preset is kept, told, named and recalled value by value; undo takes the recall back', async () => {
  await device.turn('default', gain, -12)
  await expect.poll(known).toBe(-12)
  expect(await act({ act: 'store', slot: 2, name: 'Speech' })).toBeNull()
  await expect.poll(() => presetAt(2)).toMatchObject({ name: 'Speech', isEmpty: false, isProtected: false })
  expect(await drivePreset(site, 'amp-a', 2)).toMatchObject({ [gain]: -12 })
  expect(await act({ act: 'rename', slot: 2, name: 'Speech 2' })).toBeNull()
  await expect.poll(async () => (await presetAt(2))?.name).toBe('Speech 2')
  await device.turn('default', gain, -20)
  await expect.poll(known).toBe(-20)

  // louder by 8 dB: it is asked first, and nothing is sent before
  const refused = await act({ act: 'recall', slot: 2 })
  expect(refused).toMatchObject({ status: 'louder' })
  expect(await held()).toBe(-20)
  const rises = (refused as unknown as { rises: Rise[] }).rises
  expect(await act({ act: 'recall', slot: 2 }, { agreed: rises })).toBeNull()
  expect(await held()).toBe(-12)
  await expect.poll(state).toMatchObject({ recalled: 2 })
  expect(await undo(site, false, true, ann)).toMatchObject({ status: 'done' })
  expect(contentOf(await documentsOf(site), 'settings', 'amp-a')?.[gain]).toBe(-20)
})

it('what the maker keeps is not changed, an empty place not recalled, and a device that is away does nothing',
  async () => {
    const { slots } = amplifier.capability
    expect(await act({ act: 'clear', slot: slots })).toMatchObject({ why: { code: 'act.kept' } })
    expect(await act({ act: 'recall', slot: 3 })).toMatchObject({ why: { code: 'act.noSlot' } })
    expect(await act({ act: 'store', slot: 99, name: 'x' })).toMatchObject({ why: { code: 'act.noSlot' } })
    expect(await act({ act: 'clear', slot: 2 })).toBeNull()
    await expect.poll(() => presetAt(2)).toMatchObject({ isEmpty: true })
    device.close()
    await expect.poll(async () => contentOf(await documentsOf(site), 'link', 'amp-a')?.state).toBe('lost')
    expect(await act({ act: 'identify', on: true })).toMatchObject({ why: { code: 'act.away' } })
  })

it('with every place full of large presets is opened all the same, and each is recalled as it was', async () => {
  const processor = ropewalkDevices[0]!
  const full = await runDevice(processor, mkdtempSync(join(tmpdir(), 'kovrin-acts-')))
  const nobody = { held: () => {}, housekeeping: () => {}, lost: () => {} }
  const connection = await ocaDriver(`127.0.0.1:${full.port}`, nobody)
  await connection.read()
  const taps = Array.from({ length: 1024 }, (_, n) => Math.fround(Math.sin(n) / 1024))
  for (const n of [0, 1, 2, 3]) await full.turn('default', `/outputs/${n}/fir`, { on: true, taps })
  const { slots } = processor.capability
  for (let id = 1; id < slots; id++) {
    await full.turn('default', '/outputs/0/gain', -id)
    expect(await connection.act({ act: 'store', slot: id, name: `Preset ${id}` })).toBeNull()
  }
  const { housekeeping } = await connection.read()
  expect(housekeeping.presets.filter(p => !p.isEmpty)).toHaveLength(slots)
  const told = await connection.presetAt(7)
  expect(told).toMatchObject({ '/outputs/0/gain': -7, '/outputs/3/fir': { on: true, taps } })
  expect(await connection.act({ act: 'recall', slot: 7 })).toBeNull()
  expect(await full.settings('default')).toEqual(told)
  connection.close()
  full.close()
})
