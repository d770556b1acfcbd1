import type { Decibels } from '../units'
import type { Capability } from './capability'
import { parametersOf, type ParameterPath } from './parameters'
import { riseOf } from './rise'
import { differences, type Settings } from './settings'

/** A setting that two states of a device hold differently. */
export interface ComparedSetting {
  path: ParameterPath
  from: unknown
  to: unknown
  /** What takes it from the one to the other makes louder what passes it. */
  isLouder: boolean
}
/** What differs in one channel, or in one mixer. */
export interface ComparedChannel {
  /** Address of the channel or the mixer. */
  id: string
  name: string
  settings: readonly ComparedSetting[]
}

/** Rise below which nobody would call it louder: less than the smallest step of a level. */
const leastRise: Decibels = 0.01

/**
 * What differs between two states of a device, by channel in the device's order.
 * @param capability what the device is able to do
 * @param from the one state, for instance what the device holds
 * @param to the other one, for instance what is wanted of it
 * @returns channels and mixers with differences only
 */
export function compareSettings(capability: Capability, from: Settings, to: Settings): ComparedChannel[] {
  const table = parametersOf(capability)
  const byOwner = new Map<string, ComparedSetting[]>()
  for (const difference of differences(capability, from, to)) {
    const parameter = table.get(difference.path)!
    const rise = riseOf({ parameter, from: difference.from, to: difference.to }, capability.sampleRate)
    const owner = parameter.strip ?? capability.mixers.find(m => difference.path.startsWith(`/${m.id}/`))!.id
    byOwner.set(owner, [...(byOwner.get(owner) ?? []), { ...difference, isLouder: rise >= leastRise }])
  }
  return [...capability.strips, ...capability.mixers].flatMap(({ id, name }) => {
    const settings = byOwner.get(id) ?? []
    return settings.length ? [{ id, name, settings }] : []
  })
}
