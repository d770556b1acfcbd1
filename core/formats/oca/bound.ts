import type { BlockCapability, CapabilityOf, ParameterPath } from '../../rig'
import type { OcaClass } from '../ocp1'
import type { Cells, Mapping } from './mapping'

/** What ties an object's properties to a parameter: both sides of a connection read and write through it. */
export interface Bound {
  path: ParameterPath
  oca: OcaClass
  /** Properties that hold the parameter's value, in the order in which they are set. */
  properties: readonly string[]
  /** What those are at first that a neutral value does not speak of. */
  rest: Cells
  /** What the properties shall be for a value; those that it does not speak of are left out. */
  spread: (value: unknown) => Cells
  /** The value with what the object's properties say; `value` is what other objects said of it so far. */
  join: (cells: Cells, value: unknown) => unknown
  limits: (cells: Cells) => Readonly<Record<string, readonly [number, number]>>
}

/** A parameter that one object holds. `has`: the properties that this object really has. */
export const boundBlock = (
  path: ParameterPath, oca: OcaClass, made: Mapping, capability: BlockCapability, has: ReadonlySet<string>,
): Bound => ({
  path,
  oca,
  properties: made.properties.filter(name => has.has(name)),
  rest: made.rest ?? {},
  spread: (value) => {
    const cells = made.spread(value, capability, has)
    return Object.fromEntries(made.properties.filter(name => has.has(name) && name in cells).map(n => [n, cells[n]]))
  },
  join: cells => made.gather(cells, capability),
  limits: cells => made.limits(capability, cells),
})

/** One band of a graphic EQ: an object of its own that holds one number of the parameter's row. */
export const boundGraphic = (
  path: ParameterPath, oca: OcaClass, { frequencies, gain, q }: CapabilityOf<'graphic'>, index: number,
): Bound => ({
  path,
  oca,
  properties: ['InbandGain'],
  rest: {},
  spread: value => ({ InbandGain: (value as readonly number[])[index] }),
  join: (cells, value) => {
    const row = Array.isArray(value) ? [...value as number[]] : frequencies.map(() => 0)
    row[index] = cells.InbandGain as number
    return row
  },
  limits: () => ({
    InbandGain: [gain.min, gain.max],
    Frequency: [frequencies[index]!, frequencies[index]!],
    WidthParameter: [q, q],
  }),
})
