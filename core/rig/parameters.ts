import {
  blockKinds, type BlockCapability, type BlockId, type BlockKind, type CapabilityOf, type Held, type ValueOf,
} from './blocks'
import type { Capability } from './capability'
import { message, toldOf, phrase } from '../words'

/** A parameter's address inside a device, as a JSON pointer: `/outputs/0/gain`, `/outputs/0/eq/3`, `/matrix/0/2`. */
export type ParameterPath = string

/** One thing of a device that can be set: where it stands, what it is, what it is while nobody has set it. */
export interface Parameter {
  path: ParameterPath
  /** Its strip; or its mixer, with the numbers of what it connects. */
  strip: string | null
  point: { mixer: string, input: number, output: number } | null
  kind: BlockKind
  capability: BlockCapability
  /** Address of the block in its strip. */
  block: string
  /** Its number where several of a kind stand in a row. */
  index: number
  neutral: unknown
  /** 'Gain', 'EQ band 3'. */
  short: string
  /** 'Output 3 high-pass', 'Input 1 to output 2'. */
  name: string
}
export type Parameters = ReadonlyMap<ParameterPath, Parameter>

/** A parameter whose block is of this kind: its capability and its values have that kind's types. */
export type ParameterOf<K extends BlockId> = Parameter & { capability: CapabilityOf<K>, neutral: ValueOf<K> }

/** Whether a parameter's block is of a kind; narrows its capability and values. */
export const is = <K extends BlockId>(parameter: Parameter, kind: K): parameter is ParameterOf<K> =>
  parameter.kind.kind === kind

const tables = new WeakMap<Capability, Parameters>()

/** Every parameter of a device by its path, in signal order: the one table that everything else looks things up in. */
export function parametersOf(capability: Capability): Parameters {
  const known = tables.get(capability)
  if (known) return known
  const table = new Map<ParameterPath, Parameter>()
  for (const parameter of [...stripParameters(capability), ...mixerParameters(capability)]) {
    table.set(parameter.path, parameter)
  }
  tables.set(capability, table)
  return table
}

/** 'High-pass' within a sentence; 'EQ band 3' stays as it is. */
const lower = (word: string) => (/^[A-Z][A-Z]/.test(word) ? word : `${word[0]!.toLowerCase()}${word.slice(1)}`)

/** What the device itself calls a block, with its number where several stand in a row; null: nothing. */
const ownName = ({ name, count }: BlockCapability, index: number) => {
  if (!name) return null
  return count ? `${name} ${index + 1}` : name
}

function stripParameters({ strips }: Capability): Parameter[] {
  return strips.flatMap(strip => strip.blocks.flatMap((capability) => {
    const kind = blockKinds.get(capability.kind)
    if (!kind) return []
    return Array.from({ length: capability.count ?? 1 }, (_, index): Parameter => {
      const block = capability.count ? `${capability.id}/${index}` : capability.id
      const short = ownName(capability, index) ?? kind.name(capability, index)
      return {
        path: `/${strip.id}/${block}`,
        strip: strip.id,
        point: null,
        kind,
        capability,
        block,
        index,
        neutral: kind.neutral(capability, index),
        short,
        name: `${strip.name} ${lower(short)}`,
      }
    })
  }))
}

function mixerParameters({ strips, mixers }: Capability): Parameter[] {
  const nameOf = new Map(strips.map(s => [s.id, s.name]))
  return mixers.flatMap(({ id, from, to, crosspoint: capability }) => {
    const kind = blockKinds.get(capability.kind)
    if (!kind) return []
    return from.flatMap((a, input) => to.map((b, output): Parameter => ({
      path: `/${id}/${input}/${output}`,
      strip: null,
      point: { mixer: id, input, output },
      kind,
      capability,
      block: `${input}/${output}`,
      index: 0,
      neutral: kind.neutral(capability, 0),
      short: kind.name(capability, 0),
      name: phrase('rig.to', { get: nameOf.get(a) ?? a, lower: lower(nameOf.get(b) ?? b) }),
    })))
  })
}

/** The value that the device would really hold (its steps, its families), or a sentence that says what is allowed. */
export function holdParameter(capability: Capability, path: ParameterPath, wish: unknown): Held {
  const parameter = parametersOf(capability).get(path)
  if (!parameter)
    return { ok: false, why: message('edit.noParameter', { device: capability.model, path: path.slice(0, 80) }) }
  try {
    return { ok: true, value: parameter.kind.hold(parameter.capability, wish, parameter.short) }
  }
  catch (error) {
    if (error instanceof RangeError) return { ok: false, why: toldOf(error) }
    throw error
  }
}

/** A parameter in words; the path itself where the device has none of that name. */
export const parameterName = (capability: Capability | undefined, path: ParameterPath): string =>
  (capability && parametersOf(capability).get(path)?.name) ?? path

/** A parameter's value in words and units; `undefined` is what it is while nobody has set it. */
export function showParameter(capability: Capability | undefined, path: ParameterPath, value: unknown): string {
  const parameter = capability && parametersOf(capability).get(path)
  if (!parameter) return value === undefined ? phrase('rig.notSet') : JSON.stringify(value)
  return parameter.kind.show(value === undefined ? parameter.neutral : value, parameter.capability)
}
