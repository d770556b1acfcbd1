import type { BlockCapability, BlockId, CapabilityOf, ValueOf } from '../../rig'
import type { OcaClass } from '../ocp1'
import { propertyOf } from './properties'

/** Values of an object's properties by their names. */
export type Cells = Readonly<Record<string, unknown>>
/** What was read of an object: its properties, their limits, and what a class of our own tells besides. */
export interface ReadObject {
  oca: OcaClass
  cells: Cells
  limits: Readonly<Record<string, { min: number, max: number }>>
  facts: Readonly<Record<string, readonly unknown[]>>
}
export interface RangeOf { min: number, max: number, step: number }

/**
 * How a block of one kind stands in an object of AES70: which class, which properties hold its value, and back. Both
 * sides use it: a device makes objects of what it can, a controller reads off them what a device can.
 */
export interface Mapping<C = BlockCapability, V = unknown> {
  /** What a device makes of a block. Objects of the classes above it are read too. */
  oca: OcaClass
  /** Properties that hold the value, in the order in which they are set. */
  properties: readonly string[]
  /** What those are at first that a neutral value does not speak of. */
  rest?: Cells
  /** More of them that `describe` looks at. */
  also?: readonly string[]
  /** Properties for a value; those that it does not speak of are left out. `has`: those that the object has. */
  spread: (value: V, capability: C, has: ReadonlySet<string>) => Cells
  gather: (cells: Cells, capability: C) => V
  /** Least and most of a property as a device tells them. */
  limits: (capability: C, cells: Cells) => Readonly<Record<string, readonly [number, number]>>
  /** What a device of ours answers to the methods of its own class, and to readings that are no cells. */
  facts: (capability: C) => Readonly<Record<string, readonly unknown[]>>
  /** What an object is able to do; null where a block cannot say it: it is left alone then. */
  describe: (read: ReadObject) => Omit<C, 'id' | 'count' | 'name'> | null
}

/** Leaves the types of a block behind, for a table of all of them. */
export const mapping = <K extends BlockId>(made: Mapping<CapabilityOf<K>, ValueOf<K>>): Mapping =>
  made as unknown as Mapping

/** The steps of properties, as a class of our own tells them. */
export const stepsOf = (oca: OcaClass, steps: Readonly<Record<string, number>>) =>
  [Object.entries(steps).map(([name, step]) => [propertyOf(oca, name).id, step])] as const

type Steps = [{ level: number, index: number }, number][]
/** A property's range; `assumed` is the step where the device tells none. Null where it tells no range. */
export function rangeFrom({ oca, limits, facts }: ReadObject, name: string, assumed: number): RangeOf | null {
  const limit = limits[name]
  if (!limit || !(limit.max > limit.min)) return null
  const { level, index } = propertyOf(oca, name).id
  const told = (facts.GetSteps?.[0] as Steps | undefined)?.find(([id]) => id.level === level && id.index === index)
  return { ...limit, step: told?.[1] ?? assumed }
}

/** Names of a table's numbers, the other way round. */
export const named = <N extends string>(codes: Readonly<Record<N, number>>, code: unknown): N | undefined =>
  (Object.entries(codes) as [N, number][]).find(([, n]) => n === code)?.[0]
