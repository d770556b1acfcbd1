import { speedOfSound } from './air'
import { distance } from './room'
import type { Air, Place } from './schemas'
import type { Decibels, Metres, Seconds } from '../units'

/** Distance from a place to the nearest of some others (the cabinets of a source); Infinity where there is none. */
export const nearest = (to: Place, places: readonly Place[]): Metres =>
  places.reduce((least, p) => Math.min(least, distance(p, to)), Infinity)

/** Seconds that the sound of the nearest of some cabinets flies to a place. */
export const flightTime = (cabinets: readonly Place[], to: Place, air: Air): Seconds =>
  nearest(to, cabinets) / speedOfSound(air)

/** Nearer than this a cabinet is no point any more, and its level does not rise on. */
const near: Metres = 0.3
/** What the direct sound of one cabinet loses from 1 m: 6 dB each time that the distance doubles (a point source). */
export const distanceLoss = (metres: Metres): Decibels => 20 * Math.log10(Math.max(near, metres))

/**
 * Distance at which the room is as loud as the direct sound, 0.057·√(Q·V/T): `volume` in cubic metres, `decay` the
 * time of 60 dB in seconds, `q` the directivity factor on axis. Source: Kuttruff, Room Acoustics, ch. 5.
 */
export const criticalDistance = (volume: number, decay: Seconds, q = 10): Metres =>
  0.057 * Math.sqrt((q * volume) / decay)

/** How much longer sound flies in another air, as a part: of a delay that was set for the same way. */
export const flightChange = (air: Air, later: Air): number => speedOfSound(air) / speedOfSound(later) - 1
