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
