import { lookup } from 'node:dns/promises'
import { networkInterfaces } from 'node:os'
import ipaddr from 'ipaddr.js'
import { hostOf } from '../access/hosts'

// One device may be reached at many addresses. A place is one name for all of them that lead to the same host and
// port, so that a device is claimed once.

/** Where the desks of the stand-ins are, as the start script tells: {"processor":"127.0.0.1:41231"}. */
const desks = (): Record<string, string> =>
  JSON.parse(process.env.KOVRIN_STANDINS ?? '{}') as Record<string, string>

function standinOf(address: string) {
  const [name, rack = 'default'] = address.slice('standin:'.length).split('@') as [string, string | undefined]
  return { name, rack }
}

/** Where simulated devices listened last, by their places. */
const simulated = new Map<string, string>()
const deskPatience = 2000

/**
 * Host and port of an address; `standin:processor@rack` is the copy of a simulated device in a rack of its own, whose
 * desk tells where it listens. Null: none. Rejects where the desk does not answer.
 */
export async function resolveAddress(address: string): Promise<string | null> {
  if (!address.startsWith('standin:')) return address || null
  const { name, rack } = standinOf(address)
  const desk = desks()[name]
  if (!desk) return null
  try {
    const answer = await fetch(`http://${desk}/racks/${rack}`, { signal: AbortSignal.timeout(deskPatience) })
    const { port } = await answer.json() as { port: number }
    simulated.set(await placeOf(address), `127.0.0.1:${port}`)
    return `127.0.0.1:${port}`
  }
  catch (error) { throw new Error('No answer at this address', { cause: error }) }
}

/** Milliseconds for which what a name leads to is not asked again. */
const namesKept = 30_000
const namePatience = 1000
const names = new Map<string, { at: number, ip: string }>()

/** The number that a host's name leads to; the name itself where the network does not say. */
async function numberOf(name: string): Promise<string> {
  const known = names.get(name)
  if (known && Date.now() - known.at < namesKept) return known.ip
  const late = new Promise<null>(done => setTimeout(done, namePatience, null).unref())
  const asked = lookup(name, { family: 4 }).catch(() => lookup(name)).then(found => found.address, () => null)
  const ip = await Promise.race([asked, late])
  // what cannot be asked now led where it led before
  const found = ip ?? known?.ip ?? name
  if (names.size > 1000) names.clear()
  names.set(name, { at: Date.now(), ip: found })
  return found
}

let own = { at: 0, numbers: new Set<string>() }
/** The numbers of this machine. */
function ownNumbers(): ReadonlySet<string> {
  if (Date.now() - own.at > namesKept) {
    const all = Object.values(networkInterfaces()).flat()
    own = { at: Date.now(), numbers: new Set(all.map(i => ipaddr.process(i!.address.split('%')[0]!).toString())) }
  }
  return own.numbers
}

/** A host as one number; every number of this machine as 127.0.0.1. */
async function hostAs(name: string): Promise<string> {
  const bare = name.replace(/^\[|\]$/g, '')
  const number = ipaddr.isValid(bare) ? bare : await numberOf(bare)
  if (!ipaddr.isValid(number)) return number
  // ::ffff:10.0.0.1 is 10.0.0.1
  const host = ipaddr.process(number)
  return host.range() === 'loopback' || ownNumbers().has(host.toString()) ? '127.0.0.1' : host.toString()
}

/** The one name of all addresses that lead to the same port of the same host, or to the same simulated device. */
export async function placeOf(address: string): Promise<string> {
  if (address.startsWith('standin:')) {
    const { name, rack } = standinOf(address)
    return `standin:${name}@${rack}`
  }
  const host = hostOf(address)
  if (!host) return address
  const at = `${await hostAs(host.name)}:${host.port}`
  return [...simulated].find(([, where]) => where === at)?.[0] ?? at
}

/** What a device is claimed by besides its place: the number that it tells of itself, whatever it is reached by. */
export const serialKey = (serial: string) => `serial:${serial}`
