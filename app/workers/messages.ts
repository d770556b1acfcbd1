import type {
  Averaging,
  BandDecay,
  Comb,
  DepthMap,
  EchoArrival,
  Level,
  MagnitudeKind,
  Mode,
  SoundLevel,
  SweepResult,
  TimeWeighting,
  Weighting,
} from '~~/core/measure'
import type { Curve, Signal, SweepPlan, WindowId } from '~~/core/dsp'
import type { Rig, Wiring } from '~~/core/rig'
import type { Hall } from '~~/standins/venue/venue'
import type { Place } from '~~/core/acoustics'
import type { BackgroundId } from '~~/standins/venue/background'

/** One measurement on the ring: its ring channels, and its arrival by the plan in seconds. */
export interface MeasurementSpec {
  id: string
  microphone: number
  reference: number
  expected: number | null
  paused: boolean
  /** The two sides have clocks of their own. */ clocks: boolean
}

/** How the engine measures. */
export interface EngineSettings {
  length: number | 'multi'
  overlap: number
  averaging: Averaging
  magnitude: MagnitudeKind
  window: WindowId
  dropPoor: boolean
}

/** To the analysis worker. */
export type AnalysisRequest
  = | {
    type: 'listen'
    buffer: SharedArrayBuffer
    settings: EngineSettings
    measurements: MeasurementSpec[]
    front: string
  }
  | { type: 'measurements', measurements: MeasurementSpec[], front: string }
  | { type: 'settings', settings: EngineSettings }
  | { type: 'restart', mark: number, /** Frames since the change that made it necessary. */ ago: number }
  | {
    type: 'find'
    /** Arrivals by the plan, in seconds, by measurement: taken when none stands out. */ expected: Record<
      string,
        number | null
    >
  }
  | { type: 'delay', seconds: number }
  | { type: 'follow', on: boolean }
  | { type: 'take' }
  | ({ type: 'wants' } & Wants)
  | { type: 'record', plan: SweepPlan, repeats: number }
  | { type: 'end-recording' }
  | { type: 'stop' }

/** What the charts in view need besides the curve. */
export interface Wants {
  impulse: boolean
  spectrum: boolean
  level: { weighting: Weighting, time: TimeWeighting } | null
}

/** Impulse response of the front measurement's running average; sample 0 lies at `start` seconds from the arrival. */
export interface ImpulseNow {
  type: 'impulse'
  mark: number
  samples: Float32Array
  sampleRate: number
  start: number
  echoes: EchoArrival[]
  /** Part of the energy within 50 ms. */ definition: number
  modes: Mode[]
  comb: Comb | null
}
/** Level per 1/24 octave in dBFS, by ring channel. */
export interface SpectrumNow {
  type: 'spectrum'
  channels: Map<number, Float32Array>
}
/** Levels by ring channel. */
export interface MetersNow {
  type: 'meters'
  channels: Map<number, Level>
  /** No new sound comes from the input. */ stalled: boolean
}
export interface LevelNow {
  type: 'level'
  level: SoundLevel
}

/**
 * One state of a running measurement; columns, null before anything was heard, are on the standard grid. `mark`
 * is that of the last restart asked for.
 */
export interface Frame {
  type: 'frame'
  id: string
  mark: number
  curve: Columns | null
  blocks: number
  delay: number
  /** Arrival found in the running average, or by the search; null while none stands out. */
  arrival: { time: number, polarity: 1 | -1 } | null
  searching: boolean
  /** True when the delay is the plan's, because no arrival stood out. */
  assumed: boolean
  gaps: { dropped: number, lost: number, poor: number }
  /** ppm, once it is known. */
  drift: number | null
  /** True when the drift is taken out. */
  compensated: boolean
}
export interface Columns {
  re: Float64Array
  im: Float64Array
  coherence: Float64Array
}

export interface TakeReady extends Columns {
  type: 'take'
  id: string
  mark: number
  impulse: Float32Array
  impulseStart: number
  blocks: number
  delay: number
  length: number
  sampleRate: number
  arrival: number | null
}
export interface TakeFailed {
  type: 'no-take'
  why: string
}
export interface Failed {
  type: 'failed'
  why: string
}

/** A sweep on its way (0…1), the moment to play the next one, and what came out. */
export interface SweepProgress {
  type: 'sweeping'
  done: number
}
export interface SweepNext {
  type: 'sweep-now'
}
export interface Swept {
  type: 'swept'
  /** One a measurement, the front one first. */ heard: {
    id: string
    result: SweepResult
    re: Float64Array
    im: Float64Array
  }[]
  repeats: number
}
export interface SweepFailed {
  type: 'no-sweep'
  why: string
}

export type AnalysisAnswer
  = | SweepProgress
    | SweepNext
    | Swept
    | SweepFailed
    | Frame
    | MetersNow
    | ImpulseNow
    | SpectrumNow
    | LevelNow
    | TakeReady
    | TakeFailed
    | Failed

/** What the devices hold, and what joins them. */
export type VenueRig = Rig & { wiring: Wiring }

/** To the worker that simulates the hall. `microphones` go by `microphoneTaps`; null where none stands. */
export type VenueRequest
  = | { type: 'open', hall: Hall, rig: VenueRig, microphones: (Place | null)[] }
    | { type: 'holds', rig: VenueRig }
    | { type: 'move', microphones: (Place | null)[] }
    | { type: 'replan', hall: Hall, rig: VenueRig, microphones: (Place | null)[] }
    | { type: 'clock', /** Seconds of the hall to one of ours. */ speed: number }
    | { type: 'background', id: BackgroundId }
    | { type: 'evening', on: boolean }
    | { type: 'programme', on: boolean }
    | { type: 'output', channel: number }
    | { type: 'gains', /** By `simulatedTaps`. */ gains: number[] }
    | { type: 'reflections', /** Highest order that is followed one by one. */ order: number }
    | GeneratorRequest

/** To whatever runs the generator: the hall's worker or the capture worklet. */
export type GeneratorRequest
  = | { type: 'noise', on: boolean, level: number }
    | { type: 'signal', signal: Signal }
    | { type: 'sweep', plan: SweepPlan }
    | { type: 'hush' }

export type VenueAnswer
  = | { type: 'ring', buffer: SharedArrayBuffer }
    | { type: 'heard', moved: boolean, /** Frames written since the change. */ ago: number }
    | Failed

/** `taps`: for each ring channel the node's input and its channel, or the generator. */
export type CaptureRequest
  = | GeneratorRequest
    | { type: 'open', buffer: SharedArrayBuffer, taps: ({ input: number, channel: number } | 'generator')[] }

/** To the worker that computes figures of impulse responses. `id` comes back with the answer. */
export interface FiguresRequest {
  id: number
  samples: Float32Array
  sampleRate: number
  /** Time of the first sample from the arrival. */ start: number
  what:
    | { kind: 'decay', part: 1 | 3 }
    | { kind: 'envelope' }
    | { kind: 'map', low: number, high: number, length: number, window: number }
}
export interface FiguresAnswer {
  id: number
  envelope?: Float32Array
  decay?: { bands: BandDecay[], sti: number | null }
  map?: DepthMap & { falls: (number | null)[] }
  arrivals: EchoArrival[]
}

/** To the worker that reads files. */
export interface FileRequest {
  name: string
  bytes: ArrayBuffer
}
export interface FileAnswer {
  curve: Curve
  impulse: Float32Array
  sampleRate: number
  start: number
  blocks: number
  arrival: number | null
  delay: number
  note: string
}
