import { f64, list, pairs, u16, u8 } from '../codecs'
import { propertyId } from '../structures'
import { OcaDelay, OcaDynamics, OcaFilterClassical, OcaFilterParametric, OcaGain, OcaSignalInput,
  OcaSignalOutput, OcaSwitch } from './actuators'
import { OcaLibrary } from './agents'
import { defineClass, m } from './define'
import { OcaDeviceManager } from './managers'

/**
 * Classes of our own below standard ones: they tell what the standard has no words for (steps, offered orders and
 * shapes, the electrical side of a connector). Whoever knows only the standard drives them as what they stand below.
 * The id continues the parent's with 0xFFFF and the maker's number, here a locally administered one (0A-4B-56).
 */
const ownId = (parent: { id: string }, number: number) => `${parent.id}.65535.10.19286.${number}`
/** The smallest changes that it can make, by the property that they belong to. */
const steps = pairs(propertyId, f64)

export const SteppedGain = defineClass(ownId(OcaGain, 1), 1, OcaGain, {
  GetSteps: m(5, 1, [], [steps]),
}, {})
export const SteppedDelay = defineClass(ownId(OcaDelay, 2), 1, OcaDelay, {
  GetSteps: m(5, 1, [], [steps]),
}, {})
export const OfferedFilterClassical = defineClass(ownId(OcaFilterClassical, 3), 1, OcaFilterClassical, {
  GetSteps: m(5, 1, [], [steps]),
  /** The orders of every shape that it has. */
  GetOrders: m(5, 2, [], [pairs(u8, list(u16))]),
  /** What the frequency of a Bessel filter means: 0 not told, 1 -3 dB, 2 delay, 3 phase. */
  GetBesselNorm: m(5, 3, [], [u8]),
}, {})
export const OfferedFilterParametric = defineClass(ownId(OcaFilterParametric, 4), 1, OcaFilterParametric, {
  GetSteps: m(5, 1, [], [steps]),
  GetShapes: m(5, 2, [], [list(u8)]),
  /** What the width means: 0 not told, 1 between half-gain points, 2 of the resonance alone. */
  GetWidthLaw: m(5, 3, [], [u8]),
}, {})
export const OfferedDynamics = defineClass(ownId(OcaDynamics, 5), 1, OcaDynamics, {
  GetSteps: m(5, 1, [], [steps]),
  GetDetectorLaws: m(5, 2, [], [list(u8)]),
  /** How far it hears ahead, in seconds. */
  GetLookAhead: m(5, 3, [], [f64]),
}, {})
/** Kind (0 line, 1 microphone, 2 network, 3 loudspeaker) and RMS voltage at full scale (0: not told). */
const connector = m(5, 1, [], [u8, f64])
export const ConnectorInput = defineClass(ownId(OcaSignalInput, 6), 1, OcaSignalInput, { GetConnector: connector }, {})
export const ConnectorOutput = defineClass(
  ownId(OcaSignalOutput, 7), 1, OcaSignalOutput, { GetConnector: connector }, {})
export const RigDeviceManager = defineClass(ownId(OcaDeviceManager, 8), 1, OcaDeviceManager, {
  /** What of a rig it is: 0 processor, 1 amplifier, 2 interface, 3 loudspeaker, 4 controller. */
  GetKind: m(4, 1, [], [u8]),
}, {})
/** How much can be turned at the device itself: 0 everything, 1 levels and mutes only, 2 nothing. */
export const FrontLock = defineClass(ownId(OcaSwitch, 9), 1, OcaSwitch, {}, {})
/** Presets whose data are lists of parameter records, and whose unused places have version 0. */
export const PresetLibrary = defineClass(ownId(OcaLibrary, 10), 1, OcaLibrary, {}, {})
