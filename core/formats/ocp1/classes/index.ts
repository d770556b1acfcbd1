import * as root from './root'
import * as actuators from './actuators'
import * as basic from './basic'
import * as sensors from './sensors'
import * as blocks from './blocks'
import * as agents from './agents'
import * as networks from './networks'
import * as managers from './managers'
import * as own from './own'
import type { OcaClass } from './define'

/** Every class of AES70-2018, and those of our own, by its id. */
export const ocaClasses: ReadonlyMap<string, OcaClass & { name: string }> = new Map(
  [root, actuators, basic, sensors, blocks, agents, networks, managers, own].flatMap(part =>
    Object.entries(part).map(([name, known]) => [known.id, { ...known, name }] as const)),
)

/**
 * The class that an object is driven as: its own, or the nearest known one that it stands below. A class of a maker's
 * own continues the id of a standard one, and whoever knows only the standard drives it as that.
 * @param id the fields of the object's class id
 * @returns null for what stands below no class at all
 */
export function knownClassOf(id: readonly number[]): (OcaClass & { name: string }) | null {
  for (let length = id.length; length > 0; length--) {
    const known = ocaClasses.get(id.slice(0, length).join('.'))
    if (known) return known
  }
  return null
}

export { OcaBlock, OcaMatrix } from './blocks'
export { OcaWorker } from './root'
export { OcaMediaClock3 } from './networks'
export { OcaLibrary } from './agents'
export {
  OcaDeviceManager, OcaLibraryManager, OcaMediaClockManager, OcaNetworkManager, OcaSubscriptionManager,
} from './managers'
export * from './actuators'
export * from './sensors'
export * from './own'
export type { Method, OcaClass, Property } from './define'
