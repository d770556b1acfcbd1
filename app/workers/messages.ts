import type { Averaging, BandDecay, DepthMap, EchoArrival, Level, MagnitudeKind, SoundLevel, SweepResult, TimeWeighting, Weighting } from '~~/core/measure'
import type { Curve, Signal, SweepPlan, WindowId } from '~~/core/dsp'
import type { Settings, SitePlan, Source, Capability } from '~~/core/rig'
import type { Place } from '~~/core/acoustics'
import type { BackgroundId } from '~~/standins/venue/background'

/** A further microphone: its ring channel and its arrival by the plan. */
export interface OtherMicrophone { channel: number, expected: number | null }
/** State of a further microphone's measurement; null columns while nothing is measured. */
export interface OtherFrame { type: 'other', channel: number, mark: number, re: Float64Array, im: Float64Array, coherence: Float64Array, delay: number, blocks: number, level: Level }

/** How the engine measures. */
export interface EngineSettings { length: number | 'multi', overlap: number, averaging: Averaging, magnitude: MagnitudeKind, window: WindowId }

/** To the analysis worker. */
export type AnalysisRequest =
  | { type: 'listen', buffer: SharedArrayBuffer, settings: EngineSettings, expected: number | null, others: OtherMicrophone[] }
  | { type: 'settings', settings: EngineSettings }
  | { type: 'restart', mark: number, /** Frames since the change that made it necessary. */ ago: number }
  | { type: 'find', /** Arrival by the plan, in seconds: taken when none stands out. */ expected: number | null, others: (number | null)[] }
  | { type: 'delay', seconds: number }
  | { type: 'follow', on: boolean }
  | { type: 'take' }
  | { type: 'wants' } & Wants
  | { type: 'record', plan: SweepPlan, repeats: number }
  | { type: 'end-recording' }
  | { type: 'stop' }

/** What the charts in view need besides the curve. */
export interface Wants { impulse: boolean, spectrum: boolean, level: { weighting: Weighting, time: TimeWeighting } | null }

/** Impulse response of the running average; sample 0 lies at `start` seconds from the arrival. */
export interface ImpulseNow { type: 'impulse', mark: number, samples: Float32Array, sampleRate: number, start: number, echoes: EchoArrival[], /** Part of the energy within 50 ms. */ definition: number }
/** Level per 1/24 octave in dBFS. */
export interface SpectrumNow { type: 'spectrum', microphone: Float32Array, reference: Float32Array }
export interface LevelNow { type: 'level', level: SoundLevel }

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
/** A take of a further microphone. */
export interface OtherTake extends Omit<TakeReady, 'type'> { type: 'other-take', channel: number }
export interface TakeFailed { type: 'no-take', why: string }
export interface Failed { type: 'failed', why: string }

/** A sweep on its way (0…1), the moment to play the next one, and what came out. */
export interface SweepProgress { type: 'sweeping', done: number }
export interface SweepNext { type: 'sweep-now' }
export interface Swept { type: 'swept', /** One a microphone, the main one first. */ heard: { channel: number, result: SweepResult, re: Float64Array, im: Float64Array }[], repeats: number }
export interface SweepFailed { type: 'no-sweep', why: string }

export type AnalysisAnswer = OtherFrame | OtherTake | SweepProgress | SweepNext | Swept | SweepFailed | Frame | Quiet | ImpulseNow | SpectrumNow | LevelNow | TakeReady | TakeFailed | Failed

/** To the worker that simulates the hall. */
export type VenueRequest =
  | { type: 'open', plan: SitePlan, sources: Source[], /** The first is the main one. */ microphones: Place[] }
  | { type: 'holds', devices: Record<string, { capability: Capability, settings: Settings }> }
  | { type: 'move', microphones: Place[] }
  | { type: 'replan', plan: SitePlan, sources: Source[], microphones: Place[], devices: Record<string, { capability: Capability, settings: Settings }> }
  | { type: 'background', id: BackgroundId }
  | { type: 'evening', on: boolean }
  | { type: 'reflections', /** Highest order that is followed one by one. */ order: number }
  | GeneratorRequest

/** To whatever runs the generator: the hall's worker or the capture worklet. */
export type GeneratorRequest =
  | { type: 'noise', on: boolean, level: number }
  | { type: 'signal', signal: Signal }
  | { type: 'sweep', plan: SweepPlan }
  | { type: 'hush' }

export type VenueAnswer = { type: 'ring', buffer: SharedArrayBuffer } | { type: 'heard', moved: boolean, /** Frames written since the change. */ ago: number } | Failed

export type CaptureRequest = GeneratorRequest | { type: 'open', buffer: SharedArrayBuffer, microphone: number, reference: number | 'generator' }

/** To the worker that computes figures of impulse responses. `id` comes back with the answer. */
export interface FiguresRequest { id: number, samples: Float32Array, sampleRate: number, /** Time of the first sample from the arrival. */ start: number, what: { kind: 'decay', part: 1 | 3 } | { kind: 'map', low: number, high: number, length: number, window: number } }
export interface FiguresAnswer { id: number, decay?: { bands: BandDecay[], sti: number | null }, map?: DepthMap & { falls: (number | null)[] }, arrivals: EchoArrival[] }

/** To the worker that reads files. */
export interface FileRequest { name: string, bytes: ArrayBuffer }
export interface FileAnswer { curve: Curve, impulse: Float32Array, sampleRate: number, start: number, blocks: number, arrival: number | null, delay: number, note: string }
