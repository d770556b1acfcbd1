import * as v from 'valibot'
import { Capability, Settings } from '../rig'
import { id, name, order } from './parts'

/** A device as the site knows it: what it is called, where it answers, what it said of itself. */
export const Device = v.strictObject({
  id,
  name,
  order,
  address: v.pipe(v.string(), v.maxLength(200)),
  capability: Capability,
})
export type Device = v.InferOutput<typeof Device>

const linkStates = ['searching', 'reading', 'live', 'lost', 'elsewhere', 'unconfirmed'] as const

/**
 * searching: no one answers yet; reading: connected, taking over its settings; live: in step; lost: was live, is gone;
 * elsewhere: another site drives it; unconfirmed: nobody at this machine has said that its address may be used.
 */
export const LinkState = v.strictObject({
  state: v.picklist(linkStates),
  why: v.nullable(v.string()),
  since: v.string(),
  /** Settings that the device no longer has or cannot hold, and what it tells that cannot be, in words. */
  misfits: v.array(v.string()),
  /** Parameters of which it tells what cannot be: what they really are is not known. */
  unknown: v.optional(v.array(v.string()), []),
})
export type LinkState = v.InferOutput<typeof LinkState>

export { Settings }

/** How the devices of a rig are connected, at a glance. */
export type Connections
  = | { state: 'none' }
  /** There are devices, and nobody has said yet where any of them answers. */
    | { state: 'unplaced' }
    | { state: 'in-step', all: number }
  /** The one that is not in step, and what its link says. */
    | { state: 'one', device: string, link: LinkState['state'] }
    | { state: 'several', lost: number, all: number }

/**
 * What is to be said of all connections together. A device without an address is planned only: it is not missing.
 * @param devices the devices of the rig
 * @param linkOf the state of a device's link
 */
export function connectionsOf(
  devices: readonly Pick<Device, 'id' | 'name' | 'address'>[], linkOf: (id: string) => LinkState['state'],
): Connections {
  if (!devices.length) return { state: 'none' }
  const placed = devices.filter(d => d.address !== '')
  if (!placed.length) return { state: 'unplaced' }
  const lost = placed.filter(d => linkOf(d.id) !== 'live')
  const [first] = lost
  if (!first) return { state: 'in-step', all: placed.length }
  if (lost.length > 1) return { state: 'several', lost: lost.length, all: placed.length }
  return { state: 'one', device: first.name, link: linkOf(first.id) }
}
