import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, expect, it } from 'vitest'
import {
  OcaBlock, OcaIdentificationActuator, OcaLibrary, OcaLibraryManager, OcaSubscriptionManager, OcaSwitch, OcaWorker,
} from '../../core/formats/ocp1'
import { ropewalkDevices } from '../ropewalk/devices'
import { runDevice, type RunningDevice } from './device'
import { standardOf, TestController } from './testController'

// What a controller that knows nothing but the standard may do with presets, identification and the front panel.
const amplifier = ropewalkDevices[1]!
const gain = '/outputs/0/gain'
const ends: (() => void)[] = []
afterEach(() => {
  for (const end of ends.splice(0)) end()
})
const folder = () => mkdtempSync(join(tmpdir(), 'kovrin-presets-'))
async function run(at: string): Promise<{ device: RunningDevice, a: TestController }> {
  const device = await runDevice(amplifier, at)
  const a = await TestController.open(device.port)
  ends.push(a.close, device.close)
  return { device, a }
}
type Member = { memberObjectIdentification: { object: number, classIdentification: { classId: number[] } } }
async function find(a: TestController, id: string): Promise<number> {
  const [members] = (await a.ask(100, OcaBlock.methods.GetMembersRecursive)).values as [Member[]]
  return members.map(m => m.memberObjectIdentification)
    .find(m => standardOf(m.classIdentification.classId).id === id)!.object
}
type Volumes = [number, { metadata: { name: string, access: number, version: number }, data: Uint8Array }][]
const { GetVolumes, ReplaceVolume, DeleteVolume } = OcaLibrary.methods
const { StoreCurrentParamSetData, ApplyParamSet, GetMostRecentParamSetIdentifier } = OcaBlock.methods

it('keeps its settings as a preset, recalls them, and has them after a power cut', async () => {
  const at = folder()
  const { device, a } = await run(at)
  const library = await find(a, OcaLibrary.id)
  const parameterSets = { authority: new Uint8Array(3), id: 1 }
  const [listed] = (await a.ask(8, OcaLibraryManager.methods.GetLibraryList, [parameterSets])).values as
    [{ object: number }[]]
  expect(listed.map(l => l.object)).toEqual([library])
  await device.turn('default', gain, -12)
  expect((await a.ask(100, StoreCurrentParamSetData, [{ library, id: 2 }])).status).toBe(0)
  await device.turn('default', gain, -3)
  expect((await a.ask(100, ApplyParamSet, [{ library, id: 2 }])).status).toBe(0)
  expect((await device.settings('default'))[gain]).toBe(-12)
  await device.turn('default', gain, -3)
  for (const end of ends.splice(0)) end()

  const again = await run(at)
  expect((await again.device.settings('default'))[gain]).toBe(-3)
  expect((await again.a.ask(100, GetMostRecentParamSetIdentifier)).values).toEqual([{ library, id: 2 }])
  expect((await again.a.ask(100, ApplyParamSet, [{ library, id: 2 }])).status).toBe(0)
  expect((await again.device.settings('default'))[gain]).toBe(-12)
})

it('a preset takes a new name and stays what it was; its data can be put into another place', async () => {
  const { device, a } = await run(folder())
  const library = await find(a, OcaLibrary.id)
  const volumeAt = async (slot: number) =>
    ((await a.ask(library, GetVolumes)).values as [Volumes])[0].find(([id]) => id === slot)![1]
  await device.turn('default', gain, -12)
  await a.ask(100, StoreCurrentParamSetData, [{ library, id: 1 }])
  const kept = await volumeAt(1)
  const named = { ...kept, metadata: { ...kept.metadata, name: 'Speech É' } }
  expect((await a.ask(library, ReplaceVolume, [1, named])).status).toBe(0)
  expect((await volumeAt(1)).metadata.name).toBe('Speech É')
  expect((await volumeAt(1)).data).toEqual(kept.data)
  expect((await a.ask(library, ReplaceVolume, [3, named])).status).toBe(0)
  expect((await a.ask(library, DeleteVolume, [1])).status).toBe(0)
  await device.turn('default', gain, 0)
  // what is empty cannot be recalled, and changes nothing
  expect((await a.ask(100, ApplyParamSet, [{ library, id: 1 }])).status).not.toBe(0)
  expect((await device.settings('default'))[gain]).toBeUndefined()
  expect((await a.ask(100, ApplyParamSet, [{ library, id: 3 }])).status).toBe(0)
  expect((await device.settings('default'))[gain]).toBe(-12)
})

it('the last place is as it was delivered: it can be recalled, not changed', async () => {
  const { device, a } = await run(folder())
  const library = await find(a, OcaLibrary.id)
  const [volumes] = (await a.ask(library, GetVolumes)).values as [Volumes]
  const [last, { metadata }] = volumes.at(-1)!
  expect(metadata).toMatchObject({ name: 'As delivered', access: 1 })
  const asDelivered = await device.settings('default')
  await device.turn('default', gain, -20)
  expect((await a.ask(100, StoreCurrentParamSetData, [{ library, id: last }])).status).not.toBe(0)
  expect((await a.ask(library, DeleteVolume, [last])).status).not.toBe(0)
  expect((await a.ask(100, ApplyParamSet, [{ library, id: last }])).status).toBe(0)
  expect(await device.settings('default')).toEqual(asDelivered)
  for (const id of [0, last + 1, 4_000_000_000])
    expect((await a.ask(100, StoreCurrentParamSetData, [{ library, id }])).status).not.toBe(0)
  // data that are no parameter set are refused whole
  const wrong = { ...volumes[0]![1], data: new Uint8Array([1, 2, 3]) }
  expect((await a.ask(library, ReplaceVolume, [1, wrong])).status).not.toBe(0)
})

it('shows itself until it is told to stop, and tells who listens', async () => {
  const { device, a } = await run(folder())
  const identify = await find(a, OcaIdentificationActuator.id)
  const event = { emitter: identify, eventId: { level: 1, index: 1 } }
  await a.ask(4, OcaSubscriptionManager.methods.AddSubscription,
    [event, { object: 7, methodId: { level: 3, index: 9 } }, new Uint8Array(), 1, new Uint8Array()])
  for (const on of [true, false]) {
    expect((await a.ask(identify, OcaIdentificationActuator.methods.SetActive, [on])).status).toBe(0)
    expect(await device.identifying('default')).toBe(on)
    expect((await a.ask(identify, OcaIdentificationActuator.methods.GetActive)).values).toEqual([on])
  }
  expect(a.came.filter(c => 'notification' in c)).toHaveLength(2)
})

it('a front panel that is locked lets hands turn nothing, or levels and mutes only; controllers go on', async () => {
  const at = folder()
  const { device, a } = await run(at)
  const [members] = (await a.ask(100, OcaBlock.methods.GetMembersRecursive)).values as [Member[]]
  const switches = members.map(m => m.memberObjectIdentification)
    .filter(m => standardOf(m.classIdentification.classId).id === OcaSwitch.id).map(m => m.object)
  const roles = await Promise.all(switches.map(async n => (await a.ask(n, OcaWorker.methods.GetRole)).values[0]))
  const front = switches[roles.indexOf('front')]!
  expect((await a.ask(front, OcaSwitch.methods.GetPosition)).values).toEqual([0, 0, 2])
  const turns = async (path: string, value: unknown) =>
    device.turn('default', path, value).then(() => true, () => false)
  expect((await a.ask(front, OcaSwitch.methods.SetPosition, [1])).status).toBe(0)
  expect([await turns(gain, -5), await turns('/outputs/0/mute', true), await turns('/outputs/0/delay', 0.01)])
    .toEqual([true, true, false])
  expect((await a.ask(front, OcaSwitch.methods.SetPosition, [2])).status).toBe(0)
  expect([await turns(gain, -6), await turns('/outputs/0/mute', false)]).toEqual([false, false])
  expect((await a.ask(front, OcaSwitch.methods.SetPosition, [3])).status).not.toBe(0)
  for (const end of ends.splice(0)) end()
  const again = await run(at)
  expect((await again.a.ask(front, OcaSwitch.methods.GetPosition)).values).toEqual([2, 0, 2])
})
