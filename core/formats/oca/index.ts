export type { Bound } from './bound'
export {
  housekeepingOf, libraryAccess, parameterSet, type HousekeepingObjects, type Volume,
} from './housekeeping'
export { attempt, type Ask, type Found } from './members'
export { composed, readParameterSet, writeParameterSet } from './parameterSet'
export { asMeant } from './reading'
export { propertiesOf, propertyOf, type OcaProperty } from './properties'
export { ocaStatus, OcaRefused } from './status'
export type { BoundObject } from './strips'
export { deviceRoles, rootBlock, treeOf, type OcaObject, type OcaTree } from './tree'
export { readIdentity, walk, type Identity, type Met, type Walked } from './walk'
export type { Cells } from './mapping'
