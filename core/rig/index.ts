export * from './blocks'
export * from './capability'
export * from './feeding'
export * from './gainStructure'
export * from './housekeeping'
export * from './signalPoint'
export * from './ownParameters'
export * from './delayChange'
export * from './kindFile'
export * from './linkedPass'
export * from './parameters'
export {
  isOn,
  openRoutes,
  parametersIn,
  pathMap,

  routeDelay,
  routeSounds,
  routeTo,
  setDelay,
  silencedBy,
  stripAt,
  waysInto,
  type At,
  type PathMap,
  type Rig,
  type RigDevice,
  type Step,
} from './path'
export * from './prediction'
export { applyBlock, pathResponse, stripResponse } from './response'
export * from './rise'
export * from './searching'
export * from './settings'
export * from './snapshot'
export * from './threshold'
export * from './cabling'
export * from './channels'
export * from './comparing'
export * from './wiring'
