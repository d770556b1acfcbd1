import { Bonjour } from 'bonjour-service'

/**
 * Tells of a device by DNS-SD (`_oca._tcp`), on this machine and nowhere else. Without such a network it goes unheard:
 * it can be reached by its address all the same.
 */
export function advertise(name: string, port: number) {
  const complain = (error: Error) => console.error(`${name} is not heard on the network: ${error.message}`)
  // bound to all cards, or nothing is heard; sent on this machine only
  const network = new Bonjour({ interface: '127.0.0.1', bind: '0.0.0.0' } as object, complain)
  const txt = { txtvers: '1', protovers: '1' }
  network.publish({ name: `${name} (port ${port})`, type: 'oca', port, probe: false, txt })
}
