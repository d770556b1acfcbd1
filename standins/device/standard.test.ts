import { randomBytes } from 'node:crypto'
import { mkdtempSync } from 'node:fs'
import { connect } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import {
  OcaBlock, OcaDeviceManager, OcaGain, OcaSubscriptionManager, OcaWorker, writeMessage, writeParameters,
} from '../../core/formats/ocp1'
import { cases } from '../../core/reference/cases'
import { ropewalkDevices } from '../ropewalk/devices'
import { runDevice, type RunningDevice } from './device'
import { standardOf, TestController } from './testController'

// What a controller that knows nothing but the standard may expect of a device (AES70-2018).
interface Member {
  memberObjectIdentification: { object: number, classIdentification: { classId: number[] } }
  container: number
}

let running: RunningDevice
let a: TestController
let members: Member[]
beforeAll(async () => {
  running = await runDevice(ropewalkDevices[0]!, mkdtempSync(join(tmpdir(), 'kovrin-device-')))
  a = await TestController.open(running.port)
  const told = await a.ask(100, OcaBlock.methods.GetMembersRecursive)
  members = told.values[0] as Member[]
})
afterAll(() => running.close())

const gainOf = () => members.map(m => m.memberObjectIdentification)
  .find(m => standardOf(m.classIdentification.classId).id === OcaGain.id)!.object
const changedEvent = (emitter: number) =>
  [{ emitter, eventId: { level: 1, index: 1 } }, { object: 7, methodId: { level: 3, index: 9 } }] as const
const { AddSubscription, RemoveSubscription, DisableNotifications, ReEnableNotifications }
  = OcaSubscriptionManager.methods
const context = new Uint8Array([1, 2, 3])
const nothing = new Uint8Array()

describe('a stand-in keeps to the standard', () => {
  it('its objects have numbers of their own, say who holds them, and no two of a block have one role', async () => {
    const roles = new Map<number, string[]>()
    for (const { memberObjectIdentification: { object, classIdentification }, container } of members) {
      expect(object).toBeGreaterThanOrEqual(4096)
      const { methods } = standardOf(classIdentification.classId)
      if (methods.GetOwner) expect((await a.ask(object, methods.GetOwner)).values).toEqual([container])
      const [role] = (await a.ask(object, OcaWorker.methods.GetRole)).values as [string]
      expect(role).not.toBe('')
      roles.set(container, [...(roles.get(container) ?? []), role])
    }
    for (const own of roles.values()) expect(new Set(own).size).toBe(own.length)
    expect(members.length).toBeGreaterThan(500)
  })
  it('the walk by blocks finds the same objects as the one that goes down by itself', async () => {
    const found: number[] = []
    const enter = async (block: number) => {
      const [listed] = (await a.ask(block, OcaBlock.methods.GetMembers)).values as
        [{ object: number, classIdentification: { classId: number[] } }[]]
      for (const { object, classIdentification } of listed) {
        found.push(object)
        if (standardOf(classIdentification.classId).id === OcaBlock.id) await enter(object)
      }
    }
    await enter(100)
    expect(found.toSorted()).toEqual(members.map(m => m.memberObjectIdentification.object).toSorted())
  })
  it('every number takes its least, its most and its own value, and gives them back as they were', async () => {
    let tried = 0
    // all of them in the long run, every fourth otherwise
    const looked = members.filter((_, n) => n % cases(1, 4) === 0)
    for (const { memberObjectIdentification: { object, classIdentification } } of looked) {
      const { methods } = standardOf(classIdentification.classId)
      for (const [name, get] of Object.entries(methods)) {
        const set = methods[name.replace(/^Get/, 'Set')]
        if (!name.startsWith('Get') || get.gives.length !== 3 || !set || get.takes.length) continue
        const { status, values: [value, min, max] } = await a.ask(object, get)
        if (status) continue
        const held = typeof value === 'number' ? [min, max, value] : [value]
        for (const wish of held) {
          expect([name, (await a.ask(object, set, [wish])).status]).toEqual([name, 0])
          expect([name, (await a.ask(object, get)).values[0]]).toEqual([name, wish])
        }
        tried++
      }
    }
    expect(tried).toBeGreaterThan(100)
  })
  it('what lies outside the limits, or is no number, is refused with its status', async () => {
    const gain = gainOf()
    const before = (await a.ask(gain, OcaGain.methods.GetGain)).values
    for (const wish of [99, -1e6, NaN, Infinity])
      expect((await a.ask(gain, OcaGain.methods.SetGain, [wish])).status).toBe(7)
    expect((await a.ask(gain, OcaGain.methods.GetGain)).values).toEqual(before)
    expect((await a.ask(77_777, OcaGain.methods.GetGain)).status).toBe(5)
    expect((await a.ask(gain, { level: 9, index: 9, takes: [], gives: [] })).status).toBe(11)
    expect((await a.ask(gain, { ...OcaGain.methods.SetGain, takes: [] })).status).toBe(4)
    expect((await a.ask(gain, OcaWorker.methods.SetLatency, [1])).status).toBe(8)
  })
  it('who subscribed is told before whoever set it has the answer, as often as it subscribed: once', async () => {
    const gain = gainOf()
    const b = await TestController.open(running.port)
    for (let n = 0; n < 2; n++)
      expect((await b.ask(4, AddSubscription, [...changedEvent(gain), context, 1, nothing])).status).toBe(0)
    await b.ask(gain, OcaGain.methods.SetGain, [-7])
    const [first, second] = b.came.slice(-2)
    expect(first).toMatchObject({ notification: {
      subscriber: 7, method: { level: 3, index: 9 }, context, emitter: gain, event: { level: 1, index: 1 },
      // property 4.1, -7 in single precision, current changed
      data: new Uint8Array([0, 4, 0, 1, 0xC0, 0xE0, 0, 0, 1]),
    } })
    expect(second).toMatchObject({ status: 0 })
    await b.ask(4, RemoveSubscription, changedEvent(gain))
    await b.ask(gain, OcaGain.methods.SetGain, [-8])
    expect(b.came.at(-2)).toMatchObject({ status: 0 })
    b.close()
  })
  it('notifications that were stopped are made up for by the list of what changed', async () => {
    const gain = gainOf()
    const b = await TestController.open(running.port)
    await b.ask(4, AddSubscription, [...changedEvent(gain), nothing, 1, nothing])
    const synchronize = { emitter: 4, eventId: { level: 3, index: 2 } }
    await b.ask(4, AddSubscription, [synchronize, { object: 7, methodId: { level: 3, index: 9 } }, nothing, 1, nothing])
    await b.ask(4, DisableNotifications)
    await a.ask(gain, OcaGain.methods.SetGain, [-11])
    await b.ask(4, ReEnableNotifications)
    const told = b.came.filter(c => 'notification' in c)
    expect(told).toHaveLength(1)
    expect(told[0]).toMatchObject({ notification: { emitter: 4, event: { level: 3, index: 2 } } })
    b.close()
  })
  it('a lock keeps others out until it is let go or its holder is gone', async () => {
    const gain = gainOf()
    const b = await TestController.open(running.port)
    expect((await b.ask(gain, OcaWorker.methods.LockTotal)).status).toBe(0)
    expect((await a.ask(gain, OcaGain.methods.SetGain, [-3])).status).toBe(3)
    expect((await a.ask(gain, OcaGain.methods.GetGain)).status).toBe(3)
    expect((await a.ask(gain, OcaWorker.methods.LockTotal)).status).toBe(3)
    expect((await a.ask(gain, OcaWorker.methods.Unlock)).status).toBe(3)
    expect((await b.ask(gain, OcaGain.methods.SetGain, [-3])).status).toBe(0)
    await b.ask(gain, OcaWorker.methods.Unlock)
    expect((await b.ask(gain, OcaWorker.methods.LockReadonly)).status).toBe(0)
    expect((await a.ask(gain, OcaGain.methods.GetGain)).status).toBe(0)
    expect((await a.ask(gain, OcaGain.methods.SetGain, [-4])).status).toBe(3)
    b.close()
    await vi.waitFor(async () => expect((await a.ask(gain, OcaGain.methods.SetGain, [-4])).status).toBe(0))
  })
  it('answers a heartbeat with its own, and closes the link when it hears nothing any more', async () => {
    const b = await TestController.open(running.port)
    b.say({ type: 'alive', interval: 100 })
    await vi.waitFor(() => expect(b.alive.length).toBeGreaterThan(1))
    expect(new Set(b.alive)).toEqual(new Set([100]))
    await vi.waitFor(() => expect(b.isClosed).toBe(true))
  })
  it('is called as its users call it, also after a power cut', async () => {
    const at = mkdtempSync(join(tmpdir(), 'kovrin-device-'))
    const { GetDeviceName, SetDeviceName } = OcaDeviceManager.methods
    for (const [first, name] of [[true, 'Left É'], [false, 'Left É']] as const) {
      const own = await runDevice(ropewalkDevices[1]!, at)
      const c = await TestController.open(own.port)
      if (first) expect((await c.ask(1, SetDeviceName, [name])).status).toBe(0)
      expect((await c.ask(1, GetDeviceName)).values).toEqual([name])
      c.close()
      own.close()
    }
  })
})

describe('a stand-in that is fed garbage', () => {
  const getGain = () => writeMessage({ type: 'commands', answered: true, commands: [
    { handle: 1, object: gainOf(), method: { level: 4, index: 1 }, ...writeParameters([], []) },
  ] })
  const send = (pieces: readonly Uint8Array[]) => new Promise<void>((done) => {
    const socket = connect(running.port, '127.0.0.1', () => {
      for (const piece of pieces) socket.write(piece)
      socket.end()
    })
    socket.on('error', () => {}).on('close', () => done()).resume()
  })
  it('answers everybody else as before', async () => {
    const tries = [fc.uint8Array({ maxLength: 400 }), fc.nat(40), fc.boolean()] as const
    await fc.assert(fc.asyncProperty(...tries, async (noise, cut, begins) => {
      const whole = getGain()
      await send(begins ? [whole.slice(0, cut), noise] : [noise])
      expect((await a.ask(gainOf(), OcaGain.methods.GetGain)).status).toBe(0)
    }), { numRuns: 60 })
    await send([randomBytes(100_000)])
    expect((await a.ask(gainOf(), OcaGain.methods.GetGain)).status).toBe(0)
  })
  it('takes a message in pieces of one byte', async () => {
    const b = await TestController.open(running.port)
    const asked = b.ask(gainOf(), OcaGain.methods.GetGain)
    expect((await asked).status).toBe(0)
    const socket = connect(running.port, '127.0.0.1')
    const answered = new Promise<void>(done => socket.once('data', () => done()))
    for (const byte of getGain()) {
      socket.write(new Uint8Array([byte]))
      await new Promise(setImmediate)
    }
    await answered
    socket.destroy()
    b.close()
  })
})
