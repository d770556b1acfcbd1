import type { Component, ComputedRef } from 'vue'
import type { AreaId } from '~/document/view'

/** One thing that can be done: its key in the list of keys, its name, and what it does. */
export type CommandRow = readonly [id: string, name: string, run: () => void]

/** One part of the job, as the frame shows it. Its id is also its place in the address: /sites/…/align. */
export interface Area {
  id: AreaId
  name: string
  /** What stands on its plate by itself. */
  plate: Component
  /** What else can stand there, by its name in the address: /sites/…/listen/inputs. */
  plates?: Readonly<Record<string, Component>>
  /** Its inspector, or the area whose inspector it has as well; none: the plate has the room. */
  inspector?: Component | AreaId
  /** The charts are its plate, so the ledger can stand there as well. */
  charts?: true
  /** Whether it has a use for the ledger at the left and the path along the bottom. */
  ledger: boolean
  ribbon: boolean
  /** What can be done by its own commands, from everywhere. */
  commands?: () => ComputedRef<readonly CommandRow[]>
}
