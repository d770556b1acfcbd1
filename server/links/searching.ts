import { Bonjour, type Service } from 'bonjour-service'
import { readIdentity, type Identity } from '../../core/formats/oca'
import type { FoundDevice } from '../../core/contract'
import { reachOf } from './addresses'
import { openLine } from './ocaLine'

/** Milliseconds for which one address is waited for, and the network listened to. */
const patience = 1000
const listening = 1500
/** Addresses that are asked at the same time. */
const atOnce = 128
const service = 'oca'

/** Who answers at an address; null: nobody, or something else. */
async function whoIs(address: string): Promise<Identity | null> {
  let timer: NodeJS.Timeout | undefined
  const late = new Promise<null>((done) => {
    timer = setTimeout(done, patience, null)
  })
  const opened = openLine(address, () => {}, () => {}, patience)
  try {
    return await Promise.race([opened.then(made => readIdentity(made.ask)), late])
  }
  catch { return null }
  finally {
    clearTimeout(timer)
    // it may come after it was given up
    void opened.then(made => made.end('Searched'), () => {})
  }
}

/** Asks many addresses, some at a time. */
async function askAll(addresses: readonly string[]): Promise<FoundDevice[]> {
  const found: FoundDevice[] = []
  const waiting = addresses.filter(address => reachOf(address).ok)
  const worker = async () => {
    for (let address = waiting.shift(); address !== undefined; address = waiting.shift()) {
      const who = await whoIs(address)
      if (who) found.push({ address, ...who })
    }
  }
  await Promise.all(Array.from({ length: atOnce }, worker))
  return found
}

/** Where a service listens: its IPv4 address, else whoever told of it; what runs on this machine is reached on it. */
function addressOf({ addresses = [], referer, port }: Service): string {
  const teller = referer?.address ?? ''
  const outward = addresses.find(a => /^\d+(\.\d+){3}$/.test(a)) ?? teller
  return `${teller.startsWith('127.') ? teller : outward}:${port}`
}

/** The cards of this machine, and what runs on it: simulated devices tell of themselves there and nowhere else. */
const networks: object[] = [{}, { interface: '127.0.0.1', bind: '0.0.0.0' }]

/** Addresses of devices that tell of themselves (DNS-SD, `_oca._tcp`). */
async function told(): Promise<string[]> {
  const found = new Set<string>()
  // a machine without such a network has nothing to be heard on it
  const listeners = networks.map(network => new Bonjour(network, () => {}))
  const browsers = listeners.map(l => l.find({ type: service }, up => found.add(addressOf(up))))
  await new Promise(done => setTimeout(done, listening))
  for (const browser of browsers) browser.stop()
  await Promise.all(listeners.map(l => new Promise<void>(done => l.destroy(() => done()))))
  return [...found]
}

/**
 * Devices that answer: at the addresses that are given, or, without any, those that tell of themselves.
 * @returns in the order of their addresses, each once
 */
export async function searchDevices(addresses: readonly string[] | null): Promise<FoundDevice[]> {
  const found = await askAll(addresses ?? await told())
  return found.toSorted((a, b) => a.address.localeCompare(b.address, 'en', { numeric: true }))
}
