import { frontLevels, type Housekeeping } from '../../rig'
import {
  FrontLock, OcaIdentificationActuator, OcaLibrary, PresetLibrary, type OcaClass,
} from '../ocp1'
import { isBelow, type Found } from './members'
import type { Cells } from './mapping'
import { rootBlock } from './tree'

/** Objects by which a device does more than pass sound; null: it has none. */
export interface HousekeepingObjects {
  identify: Found | null
  front: Found | null
  library: Found | null
}

/** Finds them among all objects of a device. */
export function housekeepingObjects(all: ReadonlyMap<number, Found>): HousekeepingObjects {
  const first = ({ id }: OcaClass) => [...all.values()].find(f => isBelow(f, id)) ?? null
  return { identify: first(OcaIdentificationActuator), front: first(FrontLock), library: first(OcaLibrary) }
}

/** A preset as its library tells it. */
export interface Volume {
  metadata: {
    name: string
    volType: { authority: Uint8Array, id: number }
    access: number
    version: number
    creator: string
    upDate: { negative: boolean, seconds: bigint, nanoseconds: number }
  }
  data: Uint8Array
}
export const libraryAccess = { none: 0, readOnly: 1, readExpand: 2, full: 3 } as const
/** Kinds of volumes (AES70-2018): what a block's parameters are set to. */
export const parameterSet = { authority: new Uint8Array(3), id: 1 }

/**
 * What a device tells of itself, by what its objects hold.
 * @param objects where it is held
 * @param cellsOf properties of an object by their names
 * @param name what its device manager says that it is called; null: nothing
 */
export function housekeepingOf(
  { identify, front, library }: HousekeepingObjects, cellsOf: (object: number) => Cells, name: string | null,
): Omit<Housekeeping, 'serial'> {
  const of = (found: Found | null, property: string) => (found ? cellsOf(found.number)[property] : undefined)
  const [active, position] = [of(identify, 'Active'), of(front, 'Position')]
  const volumes = (of(library, 'Volumes') ?? []) as [number, Volume][]
  const isOurs = library !== null && isBelow(library, PresetLibrary.id)
  const recent = cellsOf(rootBlock).MostRecentParamSetIdentifier as { library: number, id: number } | undefined
  return {
    name,
    identifying: typeof active === 'boolean' ? active : null,
    front: frontLevels[position as number] ?? null,
    presets: volumes.slice(0, 1000).map(([slot, { metadata }]) => ({
      slot,
      name: metadata.name.slice(0, 80),
      isEmpty: isOurs && metadata.version === 0,
      isProtected: metadata.access !== libraryAccess.full,
    })),
    recalled: recent?.library === library?.number && volumes.some(([id]) => id === recent?.id) ? recent!.id : null,
  }
}
