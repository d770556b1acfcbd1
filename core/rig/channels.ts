import { inputsBehind } from './cabling'
import type { Capability, Strip } from './capability'
import { endpointKey, sameEndpoint, type Endpoint, type Wiring } from './wiring'

/**
 * Names for so many devices that none has yet: the name itself for one, else numbered; from 1, or from 2 where there is
 * one of that name.
 * @param base what they are all called
 * @param count how many names are needed
 * @param taken names that there are
 */
export function freeNames(base: string, count: number, taken: readonly string[]): string[] {
  const has = new Set(taken)
  if (count === 1 && !has.has(base)) return [base]
  const found: string[] = []
  const first = has.has(base) ? 2 : 1
  for (let n = first; found.length < count; n++) if (!has.has(`${base} ${n}`)) found.push(`${base} ${n}`)
  return found
}

/** A channel of a device with what is joined to it. */
export interface Channel {
  strip: Strip
  /** The connector that its signal comes in by; null where it comes from inside the device. */
  input: number | null
  /** The output whose cable ends in that connector. */
  fed: Endpoint | null
  /** Connectors that its signal leaves by. */
  outputs: number[]
  /** Inputs that their cables lead to (`endpointKey`). */
  cables: string[]
  /** Bands of cabinets that they drive (`driveKey`). */
  drives: string[]
}

/**
 * The channels of a device as they stand in a rack: what a signal comes in by, and what it leaves by.
 * @param capability what the device is able to do
 * @param device its id in the rig
 * @param wiring what is joined to what
 * @returns channels without and with a connector that leads out, each in the device's order
 */
export function channelsOf(
  capability: Capability, device: string, wiring: Pick<Wiring, 'cables' | 'drives'>,
): { inputs: Channel[], outputs: Channel[] } {
  const all = capability.strips.map((strip): Channel => {
    const input = 'port' in strip.from ? strip.from.port : null
    const outputs = capability.outputs.flatMap((o, n) => (o.strip === strip.id ? [n] : []))
    const ends = outputs.map(channel => ({ device, channel }))
    return {
      strip,
      input,
      fed: (input !== null && wiring.cables[endpointKey({ device, channel: input })]) || null,
      outputs,
      cables: ends.flatMap(end => inputsBehind(wiring, end)),
      drives: Object.keys(wiring.drives).filter(key => ends.some(end => sameEndpoint(end, wiring.drives[key]!))),
    }
  })
  return { inputs: all.filter(c => !c.outputs.length), outputs: all.filter(c => c.outputs.length) }
}
