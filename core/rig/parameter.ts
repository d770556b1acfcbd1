import * as v from 'valibot'
import { showDelay, showFrequency, showLevel, showNumber, toStep } from '../units'
import type { Family } from '../dsp'
import type { Capability, ChannelCapability, PassCapability, Range } from './capability'
import { Band, Pass, type Channel, type Settings } from './settings'

/**
 * A parameter's address inside a device, as a JSON pointer (RFC 6901): `/outputs/0/gain`, `/outputs/0/eq/3`,
 * `/matrix/0/2`.
 * A filter (high-pass, low-pass, EQ band) is one parameter: its numbers only make sense together.
 */
export type ParameterPath = string
export type ParameterValue = number | boolean | null | Pass | Band

/** What a device would hold of a wished value, or why it cannot. */
export type Held = { ok: true, value: ParameterValue } | { ok: false, why: string }

const pattern
  = /^\/(?:(inputs|outputs)\/(\d+)\/(?:(gain|delay|mute|turned|highPass|lowPass)|eq\/(\d+))|matrix\/(\d+)\/(\d+))$/

export interface ParameterAddress {
  side: 'inputs' | 'outputs' | 'matrix'
  /** Channel, or the matrix input. */
  channel: number
  field: 'gain' | 'delay' | 'mute' | 'turned' | 'highPass' | 'lowPass' | 'eq' | 'crosspoint'
  /** EQ band, or the matrix output; 0 elsewhere. */
  index: number
}

const parsed = new Map<ParameterPath, ParameterAddress | null>()
const mostParsed = 20_000

/** The parts of a path, or null when it is none. Remembered: pages compare whole devices at every edit. */
export function parsePath(path: ParameterPath): ParameterAddress | null {
  const known = parsed.get(path)
  if (known !== undefined) return known
  if (parsed.size > mostParsed) parsed.clear()
  const address = parseNew(path)
  parsed.set(path, address)
  return address
}

function parseNew(path: ParameterPath): ParameterAddress | null {
  const m = pattern.exec(path)
  if (!m) return null
  if (m[5] !== undefined) return { side: 'matrix', channel: Number(m[5]), field: 'crosspoint', index: Number(m[6]) }
  return {
    side: m[1] as 'inputs' | 'outputs',
    channel: Number(m[2]),
    field: (m[3] ?? 'eq') as ParameterAddress['field'],
    index: Number(m[4] ?? 0),
  }
}

function addressIn(capability: Capability, path: ParameterPath): ParameterAddress {
  const a = parsePath(path)
  if (!a)
    throw new RangeError(
      `“${path}” is not a parameter. Parameters look like /outputs/0/gain, /outputs/0/eq/3 or /matrix/0/2.`,
    )
  const count = (side: 'inputs' | 'outputs') => capability[side].count
  const outside = (what: string, n: number) => {
    throw new RangeError(`${capability.model} has no ${what} ${n + 1}.`)
  }
  if (a.side === 'matrix') {
    if (!capability.matrix) throw new RangeError(`${capability.model} has no matrix.`)
    if (a.channel >= count('inputs')) outside('input', a.channel)
    if (a.index >= count('outputs')) outside('output', a.index)
    return a
  }
  if (a.channel >= count(a.side)) outside(a.side === 'inputs' ? 'input' : 'output', a.channel)
  const channel = capability[a.side].channel
  const missing
    = a.field === 'delay'
      ? !channel.delay
      : a.field === 'highPass'
        ? !channel.highPass
        : a.field === 'lowPass'
          ? !channel.lowPass
          : a.field === 'eq'
            ? a.index >= (channel.eq?.bands ?? 0)
            : false
  if (missing) throw new RangeError(`${capability.model} has no ${fieldName(a)} on its ${a.side}.`)
  return a
}

/** Value at `path`. Throws RangeError for a path the settings do not have. */
export function readParameter(settings: Settings, path: ParameterPath): ParameterValue {
  const a = parsePath(path)
  if (a?.side === 'matrix') {
    const level = settings.matrix[a.channel]?.[a.index]
    if (level !== undefined) return level
  }
  else if (a) {
    const channel = settings[a.side][a.channel]
    const value = a.field === 'eq' ? channel?.eq[a.index] : channel?.[a.field as 'gain']
    if (value !== undefined) return value
  }
  throw new RangeError(`There is no parameter ${path}.`)
}

/** New settings with `value` at `path`; the old ones are left as they were. Throws RangeError as `readParameter`. */
export function writeParameter(settings: Settings, path: ParameterPath, value: ParameterValue): Settings {
  readParameter(settings, path)
  const a = parsePath(path)!
  const swap = <T>(list: readonly T[], n: number, next: T) => list.map((old, k) => (k === n ? next : old))
  if (a.side === 'matrix')
    return {
      ...settings,
      matrix: swap(settings.matrix, a.channel, swap(settings.matrix[a.channel]!, a.index, value as number | null)),
    }
  const channel = settings[a.side][a.channel]!
  const next: Channel
    = a.field === 'eq'
      ? { ...channel, eq: swap(channel.eq, a.index, value as Band) }
      : { ...channel, [a.field]: value }
  return { ...settings, [a.side]: swap(settings[a.side], a.channel, next) }
}

const within = (value: number, range: Range, show: (v: number) => string, what: string) => {
  if (value < range.min - range.step / 2 || value > range.max + range.step / 2)
    throw new RangeError(
      `${what} ${show(value)} is out of range: ${show(range.min)} to ${show(range.max)} is allowed.`,
    )
  return Math.min(range.max, Math.max(range.min, toStep(value, range.step)))
}

const number = (value: unknown, what: string) => {
  if (typeof value !== 'number' || !Number.isFinite(value)) throw new RangeError(`${what} must be a number.`)
  return value
}

const read = <S extends v.GenericSchema>(schema: S, value: unknown, what: string): v.InferOutput<S> => {
  const result = v.safeParse(schema, value)
  if (!result.success)
    throw new RangeError(
      `${what}: ${
        v.flatten(result.issues).root?.[0]
        ?? Object.entries(v.flatten(result.issues).nested ?? {})
          .map(([k, w]) => `${k}: ${(w as string[])[0]}`)
          .join('; ')
      }.`,
    )
  return result.output
}

function holdPass(value: unknown, capability: PassCapability, what: string): Pass {
  const pass = read(Pass, value, what)
  const orders = capability.orders[pass.family]
  const slopes = (list: number[]) => list.map(o => 6 * o).join(', ')
  if (!orders)
    throw new RangeError(
      `${what}: this device has no ${pass.family}; it has ${Object.keys(capability.orders).join(', ')}.`,
    )
  if (!orders.includes(pass.order))
    throw new RangeError(
      `${what}: ${6 * pass.order} dB an octave is not offered for ${pass.family}; ${slopes(orders)} are.`,
    )
  return { ...pass, frequency: within(pass.frequency, capability.frequency, showFrequency, `${what} frequency`) }
}

function holdBand(value: unknown, capability: NonNullable<ChannelCapability['eq']>, what: string): Band {
  const band = read(Band, value, what)
  if (!capability.types.includes(band.type))
    throw new RangeError(`${what}: this device has no ${band.type}; it has ${capability.types.join(', ')}.`)
  return {
    ...band,
    frequency: within(band.frequency, capability.frequency, showFrequency, `${what} frequency`),
    gain: within(band.gain, capability.gain, showLevel, `${what} gain`),
    q: within(band.q, capability.q, q => `Q ${showNumber(q, 2)}`, `${what}:`),
  }
}

/** The value that the device would really hold (its steps, its families), or a sentence that says what is allowed. */
export function holdParameter(capability: Capability, path: ParameterPath, value: unknown): Held {
  try {
    const a = addressIn(capability, path)
    const what = fieldName(a)
    const channel = a.side === 'matrix' ? null : capability[a.side].channel
    switch (a.field) {
      case 'crosspoint':
        return {
          ok: true,
          value: value === null ? null : within(number(value, what), capability.matrix!, showLevel, what),
        }
      case 'gain':
        return { ok: true, value: within(number(value, what), channel!.gain, showLevel, what) }
      case 'delay':
        return { ok: true, value: within(number(value, what), channel!.delay!, s => showDelay(s), what) }
      case 'mute':
      case 'turned':
        return { ok: true, value: read(v.boolean(), value, what) }
      case 'highPass':
        return { ok: true, value: holdPass(value, channel!.highPass!, what) }
      case 'lowPass':
        return { ok: true, value: holdPass(value, channel!.lowPass!, what) }
      case 'eq':
        return { ok: true, value: holdBand(value, channel!.eq!, what) }
    }
  }
  catch (error) {
    if (error instanceof RangeError) return { ok: false, why: error.message }
    throw error
  }
}

/** Every parameter path of a device, in a fixed order. */
export function listParameters(capability: Capability): ParameterPath[] {
  const paths: ParameterPath[] = []
  for (const side of ['inputs', 'outputs'] as const) {
    const { count, channel } = capability[side]
    for (let c = 0; c < count; c++) {
      const fields = [
        'gain',
        'mute',
        'turned',
        ...(channel.delay ? ['delay'] : []),
        ...(channel.highPass ? ['highPass'] : []),
        ...(channel.lowPass ? ['lowPass'] : []),
      ]
      for (const field of fields) paths.push(`/${side}/${c}/${field}`)
      for (let b = 0; b < (channel.eq?.bands ?? 0); b++) paths.push(`/${side}/${c}/eq/${b}`)
    }
  }
  if (capability.matrix)
    for (let i = 0; i < capability.inputs.count; i++)
      for (let o = 0; o < capability.outputs.count; o++) paths.push(`/matrix/${i}/${o}`)
  return paths
}

export function sameValue(a: ParameterValue, b: ParameterValue): boolean {
  if (a === b) return true
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false
  if (a.on !== b.on || a.frequency !== b.frequency) return false
  return 'family' in a
    ? 'family' in b && a.family === b.family && a.order === b.order
    : 'type' in b && a.type === b.type && a.gain === b.gain && a.q === b.q
}

export interface Difference {
  path: ParameterPath
  from: ParameterValue
  to: ParameterValue
}

const listed = new WeakMap<Capability, ParameterPath[]>()

/** Parameters in which two settings of one device differ. */
export function differences(capability: Capability, from: Settings, to: Settings): Difference[] {
  if (from === to) return []
  let paths = listed.get(capability)
  if (!paths) listed.set(capability, (paths = listParameters(capability)))
  return paths
    .map(path => ({ path, from: readParameter(from, path), to: readParameter(to, path) }))
    .filter(d => !sameValue(d.from, d.to))
}

function fieldName(a: ParameterAddress): string {
  const names = {
    gain: 'Gain',
    delay: 'Delay',
    mute: 'Mute',
    turned: 'Polarity',
    highPass: 'High-pass',
    lowPass: 'Low-pass',
    eq: `EQ band ${a.index + 1}`,
    crosspoint: 'Crosspoint',
  }
  return names[a.field]
}

/** 'Output 3 high-pass', 'Input 1 to output 2': a parameter in words. */
export function parameterName(path: ParameterPath): string {
  const a = parsePath(path)
  if (!a) return path
  if (a.side === 'matrix') return `Input ${a.channel + 1} to output ${a.index + 1}`
  const name = fieldName(a)
  return `${a.side === 'inputs' ? 'Input' : 'Output'} ${a.channel + 1} `
    + `${name.startsWith('EQ') ? name : name.toLowerCase()}`
}

const familyNames: Record<Family, string> = {
  'butterworth': 'Butterworth',
  'linkwitz-riley': 'Linkwitz–Riley',
  'bessel': 'Bessel',
}
export const familyName = (family: Family): string => familyNames[family]

/** A parameter's value in words and units. */
export function showParameter(path: ParameterPath, value: ParameterValue): string {
  if (value === null) return 'off'
  if (typeof value === 'object') {
    if (!value.on) return 'off'
    return 'family' in value
      ? `${familyName(value.family)} ${6 * value.order} dB/oct at ${showFrequency(value.frequency)}`
      : `${value.type} ${showFrequency(value.frequency)}${['all-pass', 'notch'].includes(value.type) ? '' : ` ${showLevel(value.gain)}`} `
        + `Q ${showNumber(value.q, 2)}`
  }
  const field = parsePath(path)?.field
  if (field === 'mute') return value ? 'muted' : 'open'
  if (field === 'turned') return value ? 'turned' : 'normal'
  return field === 'delay' ? showDelay(value as number) : showLevel(value as number)
}
