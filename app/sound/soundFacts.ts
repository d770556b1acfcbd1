/** The ways by which sound comes in. */
export type SoundFrom = 'venue' | 'computer'

/** What is true of one of them. Nothing asks which one it is: it asks for the fact that it needs. */
export interface SoundFacts {
  /** Its devices are stand-ins, listed apart from real ones. */
  simulated: boolean
  /** Its microphones go by themselves to where a measurement says; real ones are moved by a person. */
  walks: boolean
  /** All that is heard went through the rig of the site; else only what real devices of it let through. */
  inRig: boolean
  /** It tells by itself when a change of the rig is heard; else it is heard at once. */
  tellsChanges: boolean
  /** Kovrin's own signal leaves by the clock that its microphones run by. */
  oneClock: boolean
}

export const soundFacts: Readonly<Record<SoundFrom, SoundFacts>> = {
  venue: { simulated: true, walks: true, inRig: true, tellsChanges: true, oneClock: true },
  computer: { simulated: false, walks: false, inRig: false, tellsChanges: false, oneClock: false },
}
