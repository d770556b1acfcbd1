import * as v from 'valibot'
import { Capability } from './capability'
import { refusal } from '../words'

/** A kind of device as a file: what such a device is able to do, to be put into a rig before one answers. */
const KindFile = v.strictObject({
  format: v.literal('kovrin-device-kind'), version: v.literal(1), capability: Capability,
})
/** Faults that are told at once. */
const mostTold = 3

/** The text of a kind file (JSON). */
export const writeKindFile = (capability: Capability): string =>
  `${JSON.stringify({ format: 'kovrin-device-kind', version: 1, capability }, null, 2)}\n`

/**
 * Reads a kind file.
 * @param text the text of the file
 * @returns what such a device is able to do
 * @throws Refusal with the first faults and their places, for what is no such file
 */
export function readKindFile(text: string): Capability {
  let value: unknown
  try {
    value = JSON.parse(text)
  }
  catch { throw refusal('kind.noJson') }
  const read = v.safeParse(KindFile, value)
  if (read.success) return read.output.capability
  const faults = read.issues.slice(0, mostTold).map(i => `${v.getDotPath(i) ?? ''} ${i.message}`.trim()).join('; ')
  throw refusal('kind.noKind', { faults })
}
