import * as v from 'valibot'
import { canonical, equal } from '../units'
import type { Capability } from './capability'
import { holdParameter, parameterName, parametersOf, type Parameter, type ParameterPath } from './parameters'
import { refusal, wordsOf, phrase } from '../words'

/**
 * What a device holds, or shall hold: parameter path → value. A path that is missing is neutral; an unknown one
 * is kept.
 */
export const Settings = v.record(v.pipe(v.string(), v.maxLength(200)), v.unknown())
export type Settings = Readonly<Record<ParameterPath, unknown>>

/** A parameter's value, neutral where nothing is set. */
export const valueOf = <P extends Parameter>(settings: Settings, { path, neutral }: P): P['neutral'] =>
  settings[path] === undefined ? neutral : settings[path]

/** The value at `path`: what is set, else neutral, else undefined for a path that the device does not have. */
export const valueAt = (capability: Capability, settings: Settings, path: ParameterPath): unknown =>
  settings[path] === undefined ? parametersOf(capability).get(path)?.neutral : settings[path]

/** New settings with `value` at `path` (undefined takes it out); the old ones are left as they were. */
export function withValue(settings: Settings, path: ParameterPath, value: unknown): Settings {
  if (value !== undefined) return { ...settings, [path]: value }
  const { [path]: _, ...rest } = settings
  return rest
}

/** The same settings without what is neutral anyway: equal meanings become equal contents. */
export function compact(capability: Capability, settings: Settings): Settings {
  const table = parametersOf(capability)
  return Object.fromEntries(
    Object.entries(settings).filter(([path, value]) => {
      const parameter = table.get(path)
      return value !== undefined && !(parameter && equal(parameter.neutral, value))
    }),
  )
}

/** A parameter in which two settings of one device differ; both values are given, neutral ones too. */
export interface Difference {
  path: ParameterPath
  from: unknown
  to: unknown
}

const orders = new WeakMap<object, ReadonlyMap<ParameterPath, number>>()
/** Places of parameters in their table. */
function orderOf(table: ReadonlyMap<ParameterPath, unknown>): ReadonlyMap<ParameterPath, number> {
  const known = orders.get(table) ?? new Map([...table.keys()].map((path, k) => [path, k]))
  orders.set(table, known)
  return known
}

/**
 * Parameters of the device in which two settings differ, in signal order. What the device does not have is left
 * out.
 */
export function differences(capability: Capability, from: Settings, to: Settings): Difference[] {
  if (from === to) return []
  const table = parametersOf(capability)
  const found: Difference[] = []
  for (const path of new Set([...Object.keys(from), ...Object.keys(to)])) {
    const parameter = table.get(path)
    if (!parameter || from[path] === to[path]) continue
    const difference = { path, from: valueOf(from, parameter), to: valueOf(to, parameter) }
    if (!equal(difference.from, difference.to)) found.push(difference)
  }
  if (found.length < 2) return found
  const order = orderOf(table)
  return found.sort((a, b) => order.get(a.path)! - order.get(b.path)!)
}

/** A setting that a device cannot hold, and why. */
export interface Misfit {
  path: ParameterPath
  value: unknown
  why: string
}

/** What of some settings a device does not have or cannot hold: a device may return with fewer bands or channels. */
export function misfits(capability: Capability, settings: Settings): Misfit[] {
  return Object.entries(settings).flatMap(([path, value]) => {
    const held = holdParameter(capability, path, value)
    return held.ok ? [] : [{ path, value, why: wordsOf(held.why) }]
  })
}

/** What of some settings is not even of the kind that stands at its path: a text for a gain. Unknown paths are left. */
export function misshapen(capability: Capability, settings: Settings): Misfit[] {
  const table = parametersOf(capability)
  return Object.entries(settings).flatMap(([path, value]) => {
    const parameter = table.get(path)
    if (!parameter || v.is(parameter.kind.value, value)) return []
    const held = holdParameter(capability, path, value)
    return [{ path, value, why: held.ok
      ? phrase('rig.isNotUnderstood', {
          short: parameter.short,
        })
      : wordsOf(held.why) }]
  })
}

/** Longest text of a value of a parameter that Kovrin does not know: it is kept as it is. */
const longestUnknown = 2000
/**
 * No number of a setting is larger, in dB, Hz, seconds or samples. What lies beyond the range that a device states is
 * possible all the same: it is what sounds.
 */
const largest = 1e6
const isBeyond = (value: unknown): boolean =>
  (typeof value === 'number' && !(Math.abs(value) <= largest))
  || (typeof value === 'object' && value !== null && Object.values(value).some(isBeyond))
function isEndless(value: unknown): boolean {
  try {
    return JSON.stringify(value ?? null).length > longestUnknown
  }
  catch { return true } // nested deeper than any stack
}

/**
 * What of the values that a device tells it cannot mean: not of the kind that stands at its path, beyond all measure,
 * or endless. By path, in words.
 */
export function impossible(capability: Capability, values: Settings): Map<ParameterPath, string> {
  const table = parametersOf(capability)
  const named = (path: ParameterPath, why: string): [ParameterPath, string] =>
    [path, phrase('rig.theDeviceTellsOf', { parameterName: parameterName(capability, path).slice(0, 80), why })]
  const shaped = misshapen(capability, values).map(m => named(m.path, m.why))
  const odd = new Set(shaped.map(([path]) => path))
  return new Map([
    ...shaped,
    ...Object.entries(values).flatMap(([path, value]) => {
      if (odd.has(path)) return []
      if (table.has(path)) return isBeyond(value) ? [named(path, phrase('rig.itIsBeyondAll'))] : []
      return isEndless(value) ? [named(path, phrase('rig.itIsTooLong'))] : []
    }),
  ])
}

/** Settings by path, each as the device would keep it. Throws RangeError with the first that it would not. */
export function holdAll(capability: Capability, wishes: Settings): Settings {
  const held = Object.entries(wishes).map(([path, wish]) => {
    const kept = holdParameter(capability, path, wish)
    if (!kept.ok) throw refusal('rig.setting', { path, why: kept.why })
    return [path, kept.value]
  })
  return compact(capability, Object.fromEntries(held))
}

const values = new Map<string, unknown>()
const internedOnes = new WeakMap<Settings, Settings>()

/**
 * The same settings with equal values made one: comparing two of them costs a look at each value, not at its
 * contents.
 */
export function interned(settings: Settings): Settings {
  const known = internedOnes.get(settings)
  if (known) return known
  const one = Object.fromEntries(
    Object.entries(settings).map(([path, value]) => {
      if (typeof value !== 'object' || value === null) return [path, value]
      const text = canonical(value)
      if (!values.has(text)) values.set(text, value)
      return [path, values.get(text)]
    }),
  )
  internedOnes.set(settings, one)
  internedOnes.set(one, one)
  return one
}
