import type { Codec, Method, OcaClass, PropertyId } from '../ocp1'

type Loose = Method<readonly unknown[], readonly unknown[]>

/** A property of a class with the methods that read and set it. */
export interface OcaProperty {
  name: string
  id: PropertyId
  codec: Codec<unknown>
  /** Gives the value alone, or the value, its least and its most. */
  get: Loose
  set: Loose | null
  isLimited: boolean
}

const tables = new WeakMap<OcaClass, ReadonlyMap<string, OcaProperty>>()

/** Every property of a class that can be read, by its name. */
export function propertiesOf(oca: OcaClass): ReadonlyMap<string, OcaProperty> {
  const known = tables.get(oca)
  if (known) return known
  const table = new Map<string, OcaProperty>()
  for (const [name, { level, index, type }] of Object.entries(oca.properties)) {
    const get = oca.methods[`Get${name}`]
    if (!get) continue
    const set = oca.methods[`Set${name}`] ?? null
    table.set(name, {
      name, id: { level, index }, codec: type as Codec<unknown>, get, set, isLimited: get.gives.length === 3,
    })
  }
  tables.set(oca, table)
  return table
}

/** A property by its name. Throws RangeError where the class has none. */
export function propertyOf(oca: OcaClass, name: string): OcaProperty {
  const found = propertiesOf(oca).get(name)
  if (!found) throw new RangeError(`Class ${oca.id} has no property ${name}`)
  return found
}

/**
 * The shortest decimal number that is this one in single precision: what a device means by the float32 that it tells
 * (-3.2, not -3.2000000477).
 */
export function decimal(value: number): number {
  if (!Number.isFinite(value)) return value
  for (let digits = 6; digits <= 9; digits++) {
    const short = Number(value.toPrecision(digits))
    if (Math.fround(short) === value) return short
  }
  return value
}
