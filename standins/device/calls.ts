import { asMeant, ocaStatus, rootBlock, type OcaObject } from '../../core/formats/oca'
import {
  OcaBlock, OcaSensor, readParameters, writeParameters, type Command, type Method, type OcaClass,
} from '../../core/formats/ocp1'
import { equal } from '../../core/units'
import type { DeviceModel } from './model'

/** What an object answers: a status, and values where it is OK. */
export type Result = { status: number, values?: readonly unknown[] }
export const ok = (...values: unknown[]): Result => ({ status: ocaStatus.ok, values })
export const no = (status: number): Result => ({ status })

type Loose = Method<readonly unknown[], readonly unknown[]>
const tables = new WeakMap<OcaClass, Map<string, { name: string, method: Loose }>>()
/** A method of a class by its level and number. */
export function methodOf(oca: OcaClass, { level, index }: Command['method']) {
  let table = tables.get(oca)
  if (!table) {
    table = new Map(Object.entries(oca.methods).map(([name, method]) =>
      [`${method.level}.${method.index}`, { name, method }] as const))
    tables.set(oca, table)
  }
  return table.get(`${level}.${index}`)
}

export const classFields = (oca: OcaClass) => oca.id.split('.').map(Number)
const identified = ({ number, oca }: OcaObject) =>
  ({ object: number, classIdentification: { classId: classFields(oca), classVersion: oca.version } })

/** Roles and numbers from the root block down to an object, the root left out. */
function pathTo(model: DeviceModel, object: OcaObject): [string[], number[]] {
  const roles: string[] = []
  const numbers: number[] = []
  for (let at: OcaObject | undefined = object; at && at.number !== rootBlock; at = model.tree.objects.get(at.owner)) {
    roles.unshift(at.role)
    numbers.unshift(at.number)
  }
  return [roles, numbers]
}

const port = (owner: number, mode: 1 | 2, index: number) => ({ owner, id: { mode, index }, name: '' })
function portsOf({ number, ports }: OcaObject) {
  const row = (mode: 1 | 2, count: number) => Array.from({ length: count }, (_, n) => port(number, mode, n + 1))
  return [...row(1, ports.in), ...row(2, ports.out)]
}

function blockAnswers(model: DeviceModel, block: OcaObject, name: string): Result | null {
  const { objects, ways } = model.tree
  switch (name) {
    case 'GetMembers': return ok(block.members.map(n => identified(objects.get(n)!)))
    case 'GetMembersRecursive': {
      const below = (b: OcaObject): object[] => b.members.flatMap((n) => {
        const member = objects.get(n)!
        return [{ memberObjectIdentification: identified(member), container: b.number }, ...below(member)]
      })
      return ok(below(block))
    }
    case 'GetSignalPaths':
    case 'GetSignalPathsRecursive':
      return ok(block.number !== rootBlock
        ? []
        : ways.map(({ source, sink }, n) => [n + 1, {
            sourcePort: port(source.owner, 2, source.index), sinkPort: port(sink.owner, 1, sink.index),
          }]))
    default: return null
  }
}

/** Readings of a device without a load: quiet, at the temperature of its room. */
const readings: Record<string, [value: unknown, min: unknown, max: unknown]> = {
  '1.1.2.2': [-90, -90, 20],
  '1.1.2.5': [24, -20, 120],
  '1.1.2.7': [0, 0, 200],
  '1.1.2.8': [0, 0, 50],
  '1.1.2.9': [{ magnitude: 8, phase: 0 }, { magnitude: 0, phase: -180 }, { magnitude: 1000, phase: 180 }],
  '1.1.2.10': [0, -60, 0],
}
function sensorAnswers({ oca }: OcaObject, name: string): Result | null {
  if (!oca.id.startsWith(OcaSensor.id)) return null
  if (name === 'GetReadingState') return ok(1)
  if (name === 'GetLaw') return ok(6)
  const reading = Object.entries(readings).find(([id]) => oca.id === id || oca.id.startsWith(`${id}.`))?.[1]
  return name === 'GetReading' && reading ? ok(...reading) : null
}

function plainAnswers(model: DeviceModel, object: OcaObject, name: string): Result | null {
  switch (name) {
    case 'GetClassIdentification':
      return ok({ classId: classFields(object.oca), classVersion: object.oca.version })
    case 'GetLockable': return ok(true)
    case 'GetRole': return ok(object.role)
    case 'GetOwner': return ok(object.owner)
    case 'GetPath': return ok(...pathTo(model, object))
    case 'GetPorts': return ok(portsOf(object))
    case 'GetLabel': return ok(object.label)
    default: return object.oca.id === OcaBlock.id ? blockAnswers(model, object, name) : sensorAnswers(object, name)
  }
}

/** Setting a property to a value. What is fixed takes the value that it has. */
function setAnswer(model: DeviceModel, object: OcaObject, property: string, given: unknown): Result {
  const fixed = object.answers[`Get${property}`]
  const value = asMeant(given)
  if (fixed) return equal(asMeant(fixed[0]), value) ? ok() : no(ocaStatus.outOfRange)
  if (!(property in model.cellsOf(object))) return no(ocaStatus.notImplemented)
  try {
    return model.set(object, property, value) ? ok() : no(ocaStatus.outOfRange)
  }
  catch { return no(ocaStatus.deviceError) }
}

/** What an object of the tree answers to a method with values. */
export function answerOf(model: DeviceModel, object: OcaObject, name: string, values: readonly unknown[]): Result {
  const plain = plainAnswers(model, object, name)
  if (plain) return plain
  const fixed = object.answers[name]
  if (fixed) return ok(...fixed)
  if (name.startsWith('Get')) {
    const told = model.get(object, name.slice(3))
    if (told) return ok(...told)
  }
  if (name.startsWith('Set') && values.length === 1) return setAnswer(model, object, name.slice(3), values[0])
  return no(ocaStatus.notImplemented)
}

/** Values of a command; null where its bytes are none of the method's types. */
export function valuesOf(method: Loose, command: Command): readonly unknown[] | null {
  try {
    return readParameters(method.takes as never, command) as readonly unknown[]
  }
  catch { return null }
}
export const written = (method: Loose, values: readonly unknown[]) =>
  writeParameters(method.gives as never, values as never)
