import { holdParameter, type Capability, type ParameterPath, type Settings } from '../../rig'
import { blob, decode, encode, libVolData_ParamSet, list, propertyId, struct, u32, type Codec } from '../ocp1'
import type { Bound } from './bound'
import type { Cells } from './mapping'
import { propertiesOf, propertyOf } from './properties'
import { asMeant } from './reading'
import type { BoundObject } from './strips'

/** A property of an object with its value in bytes. */
const records = list(struct({ object: u32, property: propertyId, value: blob }))
/** Longest data of a volume in bytes: their number has 16 bits, and a head of 6 goes before them. */
const mostBytes = 65_535 - 6

/** The value of a parameter by what one of its objects holds, on the steps of the device where it tells them. */
export function composed(capability: Capability, bound: Bound, cells: Cells, before: unknown): unknown {
  const value = bound.join(cells, before)
  const held = bound.oca.methods.GetSteps ? holdParameter(capability, bound.path, value) : null
  return held?.ok ? held.value : value
}

/**
 * Settings as data of a parameter set: every property of what is not neutral, by object and number.
 * @param settings what is not neutral
 * @param holders objects of a parameter
 * @returns the volume's data; null where they are more than a volume can hold
 */
export function writeParameterSet(
  settings: Settings, holders: (path: ParameterPath) => readonly BoundObject[],
): Uint8Array | null {
  const list = Object.entries(settings).flatMap(([path, value]) => holders(path).flatMap((bound) => {
    const cells: Cells = { ...bound.rest, ...bound.spread(value) }
    return bound.properties.filter(name => name in cells).map((name) => {
      const { id, codec } = propertyOf(bound.oca, name)
      return { object: bound.object, property: id, value: encode([codec], [cells[name]]) }
    })
  }))
  const size = list.reduce((sum, { value }) => sum + 10 + value.length, 2)
  if (size > mostBytes || list.length > 65_535) return null
  return encode([libVolData_ParamSet], [{ targetBlockType: 0, parData: encode([records], [list]) }])
}

/**
 * The settings that a parameter set holds; what it does not speak of is neutral.
 * @param capability what the device is able to do
 * @param bounds which object holds which parameter
 * @param data the volume's data
 * @returns null where it speaks of what is not known here: what it sets cannot be told then
 */
export function readParameterSet(
  capability: Capability, bounds: readonly BoundObject[], data: Uint8Array,
): Settings | null {
  const byObject = new Map(bounds.map(bound => [bound.object, bound]))
  const cells = new Map<BoundObject, Record<string, unknown>>()
  try {
    const [{ parData }] = decode([libVolData_ParamSet] as const, data)
    const [list] = decode([records] as const, parData)
    for (const { object, property: { level, index }, value } of list) {
      const bound = byObject.get(object)
      const property = bound && [...propertiesOf(bound.oca).values()]
        .find(({ id }) => id.level === level && id.index === index)
      if (!property) return null
      const told = decode([property.codec as Codec<unknown>] as const, value)[0]
      cells.set(bound, { ...cells.get(bound), [property.name]: asMeant(told) })
    }
  }
  catch { return null }
  const settings: Record<ParameterPath, unknown> = {}
  for (const [bound, own] of cells)
    settings[bound.path] = composed(capability, bound, own, settings[bound.path])
  return settings
}
