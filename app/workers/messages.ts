import type { Averaging, Level } from '~~/core/measure'
import type { Settings, SitePlan, Source, Capability } from '~~/core/rig'
import type { Place } from '~~/core/acoustics'
import type { BackgroundId } from '~~/standins/venue/background'

/** To the analysis worker. */
export type AnalysisRequest =
  | { type: 'listen', buffer: SharedArrayBuffer, length: number | 'multi', overlap: number, averaging: Averaging, expected: number | null }
  | { type: 'average', averaging: Averaging }
  | { type: 'restart', mark: number, /** Frames since the change that made it necessary. */ ago: number }
  | { type: 'find', /** Arrival by the plan, in seconds: taken when none stands out. */ expected: number | null }
  | { type: 'delay', seconds: number }
  | { type: 'take' }
  | { type: 'stop' }

/** One state of a running measurement; columns are on the standard grid. `mark` is that of the last restart asked for. */
export interface Frame {
  type: 'frame'
  mark: number
  re: Float64Array
  im: Float64Array
  coherence: Float64Array
  blocks: number
  delay: number
  /** Arrival found in the running average, or by the search; null while none stands out. */
  arrival: { time: number, polarity: 1 | -1 } | null
  searching: boolean
  /** True when the delay is the plan's, because no arrival stood out. */
  assumed: boolean
  microphone: Level
  reference: Level
  gaps: { dropped: number, lost: number }
}

/** Levels alone, while no block has been averaged. */
export interface Quiet { type: 'quiet', mark: number, microphone: Level, reference: Level, searching: boolean, stalled: boolean }

export interface TakeReady { type: 'take', mark: number, re: Float64Array, im: Float64Array, coherence: Float64Array, impulse: Float32Array, impulseStart: number, blocks: number, delay: number, length: number, sampleRate: number, arrival: number | null }
export interface TakeFailed { type: 'no-take', why: string }
export interface Failed { type: 'failed', why: string }

export type AnalysisAnswer = Frame | Quiet | TakeReady | TakeFailed | Failed

/** To the worker that simulates the hall. */
export type VenueRequest =
  | { type: 'open', plan: SitePlan, sources: Source[], microphone: Place }
  | { type: 'holds', devices: Record<string, { capability: Capability, settings: Settings }> }
  | { type: 'move', microphone: Place }
  | { type: 'replan', plan: SitePlan, sources: Source[], microphone: Place, devices: Record<string, { capability: Capability, settings: Settings }> }
  | { type: 'background', id: BackgroundId }
  | { type: 'evening', on: boolean }
  | { type: 'reflections', /** Highest order that is followed one by one. */ order: number }
  | GeneratorRequest

/** To whatever runs the generator: the hall's worker or the capture worklet. */
export type GeneratorRequest =
  | { type: 'noise', on: boolean, level: number }
  | { type: 'hush' }

export type VenueAnswer = { type: 'ring', buffer: SharedArrayBuffer } | { type: 'heard', moved: boolean, /** Frames written since the change. */ ago: number } | Failed

export type CaptureRequest = GeneratorRequest | { type: 'open', buffer: SharedArrayBuffer, microphone: number, reference: number | 'generator' }
