import { describe, expect, it } from 'vitest'
import { OcaRefused, ocaStatus, walk, type Ask } from '../../core/formats/oca'
import { decode, encode } from '../../core/formats/ocp1'
import { Capability, parametersOf } from '../../core/rig'
import { deviceKinds } from '../../core/rig/catalogue'
import * as v from 'valibot'
import { ropewalkDevices } from '../ropewalk/devices'
import { answerOf } from './calls'
import { DeviceModel } from './model'
import { managerAnswer, managers } from './managers'

/** Asks a device as over a line: values go through their bytes both ways. */
function asking(model: DeviceModel): Ask {
  const who = { serial: '1', name: null, maker: '', model: model.capability.model, firmware: null }
  const names = { get: () => undefined, set: () => {} }
  return async (number, method, values = []) => {
    const object = model.tree.objects.get(number)
    const oca = object?.oca ?? managers[number]!
    const name = Object.entries(oca.methods).find(([, m]) => m.level === method.level && m.index === method.index)?.[0]
    if (!name) throw new OcaRefused(ocaStatus.badMethod)
    const given = decode(method.takes as never, encode(method.takes as never, values as never))
    const result = object
      ? answerOf(model, object, name, given)
      : managerAnswer(model, who, names, number, name, given)!
    if (result.status !== ocaStatus.ok) throw new OcaRefused(result.status)
    return decode(method.gives as never, encode(method.gives as never, result.values as never))
  }
}
// what is added before it is known is no device yet
const { other: _, ...known } = deviceKinds
const capabilities = [...ropewalkDevices, ...Object.values(known)].map(d => d.capability)

describe('a device as a tree of objects', () => {
  it.each(capabilities.map(c => [c.model, c] as const))('%s: its tree tells all that it can', async (_, capability) => {
    const model = new DeviceModel(capability, {}, () => {})
    const firmware = capability.firmware ?? null
    const identity = { serial: null, name: null, maker: '', model: capability.model, firmware }
    const walked = await walk(asking(model), identity)
    expect(v.parse(Capability, walked.capability)).toEqual(capability)
    expect(new Set(walked.bounds.map(b => b.path))).toEqual(new Set(parametersOf(capability).keys()))
  })
})
