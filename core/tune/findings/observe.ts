import type { Curve } from '../../dsp'
import type { FrequencyBand, Level, RoomTold } from '../../measure'
import type { Seconds } from '../../units'
import type { Observed } from './finding'

/** The running measurement as it stands, before it is asked what of it says something already. */
export interface RunningNow extends Pick<
  Observed,
  'microphone' | 'reference' | 'delay' | 'hum' | 'flattened' | 'compensated' | 'clocks' | 'speedOfSound' | 'silence'
> {
  running: boolean
  /** The arrival is looked for. */
  searching: boolean
  /** Kovrin's own signal plays, and since when, or since when it does not. */
  noise: boolean
  noiseFor: Seconds
  /** Blocks in the average, and whether every frequency of it was measured often enough to be judged. */
  blocks: number
  complete: boolean
  curve: Curve | null
  arrival: Observed['arrival']
  /** When the picked source should arrive, by the plan; null where the plan does not say. */
  expected: Seconds | null
  /** The delay that is taken out is itself the plan's. */
  assumed: boolean
  room: RoomTold | null
  spectrum: { bands: readonly FrequencyBand[], microphone: ArrayLike<number> } | null
  /** What the rig says of what sounds; null where it says nothing of what is measured. */
  rig: { others: Observed['others'], unfed: string | null } | null
  /** Drift in ppm; `mayDrift`: the two sides may have clocks of their own. */
  drift: number | null
  mayDrift: boolean
}

/** RMS of a reference in dBFS from which some other signal than ours is loud enough to measure with. */
const otherSignal = -60
/** Seconds for which a noise that begins says nothing while its arrival is looked for. */
const rises: Seconds = 4
/** Blocks from which an average says something. */
const enoughBlocks = 8

/** Whether something plays that can be measured with: Kovrin's own signal, or any other that is loud enough. */
export const isSounding = (noise: boolean, reference: Level): boolean => noise || reference.rms > otherSignal

/** What of a running measurement can be judged at this moment; null while nothing can. */
export function observe(now: RunningNow): Observed | null {
  if (!now.running || (now.searching && now.noise && now.noiseFor < rises)) return null
  const sounding = isSounding(now.noise, now.reference)
  const isLong = now.blocks >= enoughBlocks
  const { microphone, reference, delay, hum, flattened, compensated, clocks, speedOfSound, silence, spectrum } = now
  return {
    microphone, reference, delay, hum, flattened, compensated, clocks, speedOfSound, silence, spectrum, sounding,
    curve: isLong && now.complete ? now.curve : null,
    arrival: sounding && !now.searching ? now.arrival : null,
    expected: now.assumed ? null : now.expected,
    room: sounding && isLong ? now.room : null,
    others: now.rig?.others ?? [],
    unfed: now.rig?.unfed ?? null,
    drift: now.mayDrift ? now.drift : null,
  }
}

/** Looks, a second apart, at what sounds when nothing of ours does; the lowest of each band goes on all the time. */
export interface Silence {
  /** The microphone that was looked at. */
  microphone: string | undefined
  looks: readonly Float32Array[]
  /** Seconds since some moment at which the last look was. */
  at: Seconds
  /** What goes on all the time; null before there were looks enough. */
  steady: Float32Array | null
}
export const noSilence: Silence = { microphone: undefined, looks: [], at: -Infinity, steady: null }
const looksNeeded = 5
/** Seconds from one look to the next, and in which a room has died away. */
const [between, diesAway]: [Seconds, Seconds] = [1, 3]

/**
 * What is known of silence after one more look. `heard`: the microphone's level by band now, null where it is not
 * known; `at`, `noiseSince`: seconds since some moment, now and when the noise was last switched.
 */
export function hearSilence(
  before: Silence,
  now: {
    microphone: string | undefined
    sounding: boolean
    heard: Float32Array | null
    at: Seconds
    noiseSince: Seconds
  },
): Silence {
  const { microphone, sounding, heard, at } = now
  const known = microphone === before.microphone ? before : { ...noSilence, at: before.at, microphone }
  if (sounding) return known.looks.length ? { ...known, looks: [] } : known
  if (!heard || at - known.at <= between || at - now.noiseSince <= diesAway) return known
  const looks = [...known.looks.slice(1 - looksNeeded), heard]
  const steady = looks.length < looksNeeded ? known.steady : heard.map((_, k) => Math.min(...looks.map(l => l[k]!)))
  return { microphone, looks, at, steady }
}
