import ipaddr from 'ipaddr.js'
import { hostOf } from '../access/hosts'
import { database } from '../store/client'
import { addresses } from '../store/schema'
import { message, Refusal, wordsOf, type Message } from '../../core/words'

// A site file or a request may name any address: Kovrin connects to none that a person at this machine has not
// confirmed. Simulated devices are its own and need no word.

const rangeWords: Record<string, string> = {
  loopback: 'on this machine',
  linkLocal: 'reachable on this cable only (link-local)',
  private: 'in a private network',
  uniqueLocal: 'in a private network',
  carrierGradeNat: 'in a provider’s network',
  unicast: 'a public address of the internet',
}

export type Reach = { ok: true, where: string } | { ok: false, why: Message }

/** Where an address leads, in words; not ok where no device can be. */
export function reachOf(address: string): Reach {
  const host = hostOf(address)
  if (!host || host.port === null || Number(host.port) < 1 || Number(host.port) > 65_535)
    return { ok: false, why: message('address.none', { address: address.slice(0, 80) }) }
  const bare = host.name.replace(/^\[|\]$/g, '')
  if (!ipaddr.isValid(bare) || (!bare.includes(':') && !ipaddr.IPv4.isValidFourPartDecimal(bare)))
    return { ok: true, where: 'a name: it leads wherever the network says' }
  // ::ffff:10.0.0.1 is 10.0.0.1
  const range = ipaddr.process(bare).range()
  const where = rangeWords[range]
  return where === undefined
    ? { ok: false, why: message('address.range', { address, range }) }
    : { ok: true, where }
}

const isOwn = (address: string) => address === '' || address.startsWith('standin:')

/** Why Kovrin does not connect to an address; null when it may. */
export function notConfirmed(address: string, confirmed: ReadonlySet<string>): string | null {
  if (isOwn(address) || confirmed.has(address)) return null
  const reach = reachOf(address)
  return wordsOf(reach.ok ? message('address.notConfirmed', { address, where: reach.where }) : reach.why)
}

export const readConfirmed = async (): Promise<Set<string>> =>
  new Set((await database().select({ address: addresses.address }).from(addresses)).map(r => r.address))

/** Lets Kovrin connect to an address from now on. Throws RangeError for one where no device can be. */
export async function confirmAddress(address: string, who: string) {
  const reach = reachOf(address)
  if (!reach.ok) throw new Refusal(reach.why)
  await database().insert(addresses).values({ address, who }).onConflictDoNothing()
}
