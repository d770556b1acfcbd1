import type { Documents } from '../../core/documents'
import { rackDocuments, ropewalk, ropewalkTuned } from '../../standins/ropewalk/site'

// The one door between the server and what the stand-ins bring along: the demo sites, and a simulated rig for a
// new one.

/** The simulated devices as documents, in a rack of their own. */
export const simulatedRack = (rack: string): Documents => rackDocuments(rack)

/** Ropewalk Hall, tuned and untuned; the last is the newest work. */
export const demoSites: readonly { id: string, documents: Documents }[] = [ropewalkTuned, ropewalk]
