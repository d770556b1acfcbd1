import {
  deviceQ, familyName, holdParameter, is, shiftDelays, ownParameters, parametersIn, valueOf,
  type BlockId, type Endpoint, type OwnParameter, type Parameter, type ParameterOf, type ParameterPath, type Pass,
  type Rig,
} from '../rig'
import { showDelay, showFrequency, showLevel, showNumber, type Decibels, type Seconds } from '../units'
import type { FitFilter } from './placing'
import { Refusal, refusal, phrase } from '../words'

/** Something done to a source as a whole, whatever devices it hangs on. */
export type Act
  = | { kind: 'delay', by: Seconds }
    | { kind: 'gain', by: Decibels }
    | { kind: 'invert' }
    | { kind: 'filters', filters: readonly FitFilter[] }
    | { kind: 'all-pass', frequency: number, q: number }
    | { kind: 'pass', side: 'high' | 'low', pass: Pass }

/** A source in its rig: what drives it, and what drives all others. */
export interface Reach {
  rig: Rig
  from: Endpoint
  name: string
  outputs: readonly Endpoint[]
  others: readonly Endpoint[]
}
export interface Setting {
  device: string
  path: ParameterPath
  value: unknown
}

/** A rig with other settings. */
export function withSettings(rig: Rig, settings: readonly Setting[]): Rig {
  if (!settings.length) return rig
  const devices = { ...rig.devices }
  for (const { device, path, value } of settings) {
    const before = devices[device]!
    devices[device] = { ...before, settings: { ...before.settings, [path]: value } }
  }
  return { ...rig, devices }
}

/** A source's own parameters of a kind. Throws RangeError where it shares every one with others. */
function ownOf<K extends BlockId>(
  { rig, from, name, outputs, others }: Reach,
  kind: K,
  wanted = (_: ParameterOf<K>) => true,
): OwnParameter<ParameterOf<K>>[] {
  const own = ownParameters(rig, from, outputs, others, (p): p is ParameterOf<K> => is(p, kind) && wanted(p))
  if (!own?.length) throw refusal('act.shared', { name, kind })
  return own
}
const now = <P extends Parameter>({ rig }: Reach, { device, parameter }: OwnParameter<P>) =>
  valueOf(rig.devices[device]!.settings, parameter)

/** The least delay that is set for a source alone: no more can be taken from it. */
export const ownDelay = (reach: Reach): Seconds =>
  Math.min(...ownOf(reach, 'delay').map(own => now(reach, own)))

/** EQ bands of a source's own that do nothing yet: a list for each strip, all of one length. */
export function freeBands(reach: Reach): OwnParameter<ParameterOf<'band'>>[][] {
  const lists = ownOf(reach, 'band').map(({ device, parameter }) => {
    const { capability, settings } = reach.rig.devices[device]!
    return parametersIn(capability, parameter.strip!)
      .filter(p => is(p, 'band'))
      .filter(p => !valueOf(settings, p).on)
      .map(p => ({ device, parameter: p }))
  })
  const least = Math.min(...lists.map(l => l.length))
  return lists.map(l => l.slice(0, least))
}

const inBand = (own: OwnParameter<ParameterOf<'band'>>, { kind, frequency, gain, q }: FitFilter): Setting => {
  const { capability } = own.parameter
  const value = { on: true, type: kind, frequency, gain, q: kind === 'peaking' ? deviceQ(q, gain, capability) : q }
  return { device: own.device, path: own.parameter.path, value }
}

function filtersIn(reach: Reach, filters: readonly FitFilter[]): Setting[] {
  const free = freeBands(reach)
  if (free.some(list => list.length < filters.length))
    throw refusal('act.fewFilters', { name: reach.name, free: free[0]?.length ?? 0, needed: filters.length })
  return free.flatMap(list => filters.map((f, n) => inBand(list[n]!, f)))
}

function settings(act: Act, reach: Reach): Setting[] {
  switch (act.kind) {
    case 'delay':
      return shiftDelays(reach.rig, ownOf(reach, 'delay'), act.by)
    case 'gain':
      return ownOf(reach, 'gain').map(own =>
        ({ device: own.device, path: own.parameter.path, value: now(reach, own) + act.by }))
    case 'invert':
      return ownOf(reach, 'polarity').map((own) => {
        const value = now(reach, own) === 'normal' ? 'inverted' : 'normal'
        return { device: own.device, path: own.parameter.path, value }
      })
    case 'filters':
      return filtersIn(reach, act.filters)
    case 'all-pass':
      return freeBands(reach).flatMap(list => list.slice(0, 1)).map(own => ({
        device: own.device,
        path: own.parameter.path,
        value: { on: true, type: 'all-pass', frequency: act.frequency, gain: 0, q: act.q },
      }))
    case 'pass':
      return ownOf(reach, 'pass', p => p.capability.side === act.side)
        .map(own => ({ device: own.device, path: own.parameter.path, value: act.pass }))
  }
}

/**
 * What to set so that an act is done to a source and to no other, each value as its device keeps it. Throws RangeError
 * with the reason where it cannot be: then none should be set.
 */
export const settingsFor = (act: Act, reach: Reach): Setting[] =>
  settings(act, reach).map(({ device, path, value }) => {
    const held = holdParameter(reach.rig.devices[device]!.capability, path, value)
    if (!held.ok) throw new Refusal(held.why)
    return { device, path, value: held.value }
  })

/** An act in a few words. */
export function showAct(act: Act): string {
  switch (act.kind) {
    case 'delay':
      return act.by < 0 ? `${showDelay(-act.by)} earlier` : `${showDelay(act.by)} later`
    case 'gain':
      return showLevel(act.by)
    case 'invert':
      return phrase('tuning.polarityInverted')
    case 'filters':
      return act.filters
        .map(f => `${showFrequency(f.frequency)} ${showLevel(f.gain)} Q ${showNumber(f.q, 1)}`)
        .join(', ')
    case 'all-pass':
      return phrase('tuning.allPass', { frequency: showFrequency(act.frequency), q: showNumber(act.q, 1) })
    case 'pass':
      return phrase(act.side === 'high' ? 'tuning.highPass' : 'tuning.lowPass', {
        family: familyName(act.pass.family),
        slope: 6 * act.pass.order,
        frequency: showFrequency(act.pass.frequency),
      })
  }
}
