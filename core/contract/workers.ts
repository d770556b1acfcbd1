import * as v from 'valibot'
import type { AlignMap, RunStep, StepFacts, TuneJob, Tuning, VariantCandidate } from '../tune'
import { FitAnswer, FitBody } from './shape'
import { Air, type Coverage, type Radiator } from '../acoustics'
import { windows, type Curve, type Signal, type SweepPlan, type WindowId } from '../dsp'
import {
  bandParts,
  estimators,
  type BandDecay,
  type DepthMap,
  type EchoArrival,
  type Level,
  type RoomTold,
  type SoundLevel,
  type SweepResult,
} from '../measure'

/** A value of core's own making: that it is an object is all that is checked on the way. */
export const made = <T extends object>(what: string) =>
  v.custom<T>(value => typeof value === 'object' && value !== null, `${what} is missing.`)
const shared = v.custom<SharedArrayBuffer>(
  value => typeof SharedArrayBuffer !== 'undefined' && value instanceof SharedArrayBuffer,
  'The ring is missing.',
)
const count = v.pipe(v.number(), v.integer(), v.minValue(0))
const finite = v.pipe(v.number(), v.finite())
const samples = v.custom<Float32Array>(value => value instanceof Float32Array, 'The samples are missing.')
const column = v.custom<Float64Array>(value => value instanceof Float64Array, 'A column is missing.')
const columns = { re: column, im: column, coherence: column, averages: column }

/** One measurement on the ring: its ring channels, and its arrival by the plan in seconds. */
export const MeasurementSpec = v.object({
  id: v.string(),
  microphone: count,
  reference: count,
  expected: v.nullable(finite),
  paused: v.boolean(),
  /** The two sides have clocks of their own. */
  clocks: v.boolean(),
})
export type MeasurementSpec = v.InferOutput<typeof MeasurementSpec>

/** How the engine measures. */
export const EngineSettings = v.object({
  length: v.union([v.literal('multi'), count]),
  overlap: finite,
  averaging: v.variant('kind', [
    v.object({ kind: v.literal('exponential'), time: finite }),
    v.object({ kind: v.literal('blocks'), count }),
    v.object({ kind: v.literal('all') }),
  ]),
  estimator: v.picklist(estimators),
  window: v.picklist(Object.keys(windows) as WindowId[]),
  dropPoor: v.boolean(),
})
export type EngineSettings = v.InferOutput<typeof EngineSettings>

/** Responses on the standard grid that are taken out of what a channel hears: its microphone's own, and all tools'. */
export const ChannelCorrection = v.object({
  own: v.nullable(v.object({ re: column, im: column })),
  whole: v.nullable(v.object({ re: column, im: column })),
})
export type ChannelCorrection = v.InferOutput<typeof ChannelCorrection>

const plan = made<SweepPlan>('The sweep')
const measurements = v.array(MeasurementSpec)

/** What the charts in view need besides the curve. */
export const Wants = v.object({
  /** New pictures come five times a second at most: the system asks for little motion, or little work. */
  calm: v.boolean(),
  impulse: v.boolean(),
  /** 24ths of an octave often, for the spectrogram; else only now and then. */
  spectrum: v.boolean(),
  /** Levels by filters, of bands of this part of an octave and with this time weighting. */
  bands: v.nullable(v.object({ part: v.picklist(bandParts), time: v.picklist(['fast', 'slow']) })),
  level: v.nullable(
    v.object({ weighting: v.picklist(['A', 'C', 'Z']), time: v.picklist(['fast', 'slow', 'impulse']) }),
  ),
})
export type Wants = v.InferOutput<typeof Wants>

/** To the worker that measures. */
export const AnalysisRequest = v.variant('type', [
  v.object({
    type: v.literal('listen'),
    buffer: shared,
    settings: EngineSettings,
    measurements,
    front: v.string(),
  }),
  v.object({ type: v.literal('measurements'), measurements, front: v.string() }),
  v.object({ type: v.literal('settings'), settings: EngineSettings }),
  /** `ago`: frames since the change that made it necessary. */
  v.object({ type: v.literal('restart'), mark: count, ago: count }),
  /** All that sounds is this much later since `ago` frames, and nothing else is different. */
  v.object({ type: v.literal('later'), mark: count, ago: count, seconds: finite }),
  /** `expected`: arrivals by the plan, in seconds, by measurement: taken when none stands out. */
  v.object({ type: v.literal('find'), expected: v.record(v.string(), v.nullable(finite)) }),
  v.object({ type: v.literal('delay'), seconds: finite }),
  v.object({ type: v.literal('corrections'), channels: v.map(count, ChannelCorrection) }),
  v.object({ type: v.literal('follow'), on: v.boolean() }),
  v.object({ type: v.literal('take') }),
  v.object({ type: v.literal('wants'), ...Wants.entries }),
  /** `tail`: seconds in which the room is expected to die away. */
  v.object({ type: v.literal('record'), plan, repeats: v.pipe(count, v.minValue(1)), tail: finite }),
  v.object({ type: v.literal('end-recording') }),
  v.object({ type: v.literal('stop') }),
])
export type AnalysisRequest = v.InferOutput<typeof AnalysisRequest>

/** Impulse response of the front measurement's running average; sample 0 lies at `start` seconds from the arrival. */
export const ImpulseNow = v.object({
  type: v.literal('impulse'),
  mark: count,
  samples,
  sampleRate: finite,
  start: finite,
  echoes: v.array(made<EchoArrival>('An arrival')),
  /** Judged once a second. */
  room: made<RoomTold>('What the response says'),
})
export type ImpulseNow = v.InferOutput<typeof ImpulseNow>

/** Level per 1/24 octave in dBFS, by ring channel. */
export const SpectrumNow = v.object({ type: v.literal('spectrum'), channels: v.map(count, samples) })
export type SpectrumNow = v.InferOutput<typeof SpectrumNow>

/** What hums at the front measurement's microphone while its reference is silent; not `known` before that was long. */
export const HumNow = v.object({
  type: v.literal('hum'),
  known: v.boolean(),
  hum: v.nullable(v.object({ mains: v.picklist([50, 60]), lines: v.array(v.number()) })),
})
export type HumNow = v.InferOutput<typeof HumNow>

/** Levels by filters in dBFS, by ring channel, of the bands that were asked for last. */
export const BandsNow = v.object({
  type: v.literal('bands'),
  part: v.picklist(bandParts),
  channels: v.map(count, samples),
})
export type BandsNow = v.InferOutput<typeof BandsNow>

/** Levels by ring channel; `stalled`: no new sound comes from the input. */
export const MetersNow = v.object({
  type: v.literal('meters'),
  channels: v.map(count, made<Level>('A level')),
  stalled: v.boolean(),
})
export type MetersNow = v.InferOutput<typeof MetersNow>
export const LevelNow = v.object({ type: v.literal('level'), level: made<SoundLevel>('The level') })

/**
 * One state of a running measurement; columns, null before anything was heard, are on the standard grid. `mark`
 * is that of the last restart asked for.
 */
export const Frame = v.object({
  type: v.literal('frame'),
  id: v.string(),
  mark: count,
  curve: v.nullable(v.object(columns)),
  blocks: v.number(),
  delay: v.number(),
  /** Arrival found in the running average, or by the search; null while none stands out. */
  arrival: v.nullable(
    v.object({
      time: v.number(),
      polarity: v.nullable(v.picklist([1, -1])),
      uncertainty: v.number(),
      band: v.tuple([v.number(), v.number()]),
    }),
  ),
  searching: v.boolean(),
  /** Nothing is added to it until it goes on. */
  paused: v.boolean(),
  /** True when the delay is the plan's, because no arrival stood out. */
  assumed: v.boolean(),
  gaps: v.object({ dropped: v.number(), lost: v.number(), poor: v.number() }),
  /** ppm, once it is known. */
  drift: v.nullable(v.number()),
  /** True when the drift is taken out. */
  compensated: v.boolean(),
  /** Every frequency was measured often enough to be judged. */
  complete: v.boolean(),
})
export type Frame = v.InferOutput<typeof Frame>

export const TakeReady = v.object({
  type: v.literal('take'),
  id: v.string(),
  mark: count,
  ...columns,
  impulse: samples,
  impulseStart: v.number(),
  blocks: v.number(),
  delay: v.number(),
  length: v.number(),
  sampleRate: v.number(),
  arrival: v.nullable(v.number()),
})
export type TakeReady = v.InferOutput<typeof TakeReady>

const failure = <T extends string>(type: T) => v.object({ type: v.literal(type), why: v.string() })
export const TakeFailed = failure('no-take')
export const Failed = failure('failed')
export const SweepFailed = failure('no-sweep')
/** A sweep on its way (0…1), the moment to play the next one, and what came out. */
export const SweepProgress = v.object({ type: v.literal('sweeping'), done: v.number() })
export const SweepNext = v.object({ type: v.literal('sweep-now') })
/** `heard`: one a measurement, the front one first. */
export const Swept = v.object({
  type: v.literal('swept'),
  heard: v.array(
    v.object({ id: v.string(), result: made<SweepResult>('A sweep') }),
  ),
  repeats: count,
})
export type Swept = v.InferOutput<typeof Swept>
export type SweepAnswer = v.InferOutput<typeof SweepProgress | typeof SweepNext | typeof Swept | typeof SweepFailed>

export const AnalysisAnswer = v.variant('type', [
  SweepProgress,
  SweepNext,
  Swept,
  SweepFailed,
  Frame,
  MetersNow,
  ImpulseNow,
  SpectrumNow,
  BandsNow,
  LevelNow,
  HumNow,
  TakeReady,
  TakeFailed,
  Failed,
])
export type AnalysisAnswer = v.InferOutput<typeof AnalysisAnswer>

/** To whatever runs the generator: the simulated hall's worker or the capture worklet. */
export const generatorRequests = [
  v.object({ type: v.literal('noise'), on: v.boolean(), level: finite }),
  v.object({ type: v.literal('signal'), signal: made<Signal>('The signal') }),
  v.object({ type: v.literal('sweep'), plan }),
  v.object({ type: v.literal('hush') }),
] as const
export type GeneratorRequest = v.InferOutput<(typeof generatorRequests)[number]>

/** `taps`: for each ring channel the node's input and its channel, or the generator. */
export const CaptureRequest = v.variant('type', [
  ...generatorRequests,
  v.object({
    type: v.literal('open'),
    buffer: shared,
    taps: v.array(v.union([v.literal('generator'), v.object({ input: count, channel: count })])),
  }),
])
export type CaptureRequest = v.InferOutput<typeof CaptureRequest>

/** To the worker that computes figures of impulse responses. `id` comes back with the answer. */
export const FiguresRequest = v.object({
  id: count,
  samples,
  sampleRate: v.pipe(finite, v.minValue(1)),
  /** Time of the first sample from the arrival. */
  start: finite,
  what: v.variant('kind', [
    v.object({
      kind: v.literal('decay'),
      part: v.picklist([1, 3]),
      /** Octave levels at the listener, for speech transmission; null: of the room alone. */
      levels: v.nullable(v.object({ speech: v.array(finite), noise: v.array(finite) })),
    }),
    v.object({ kind: v.literal('envelope') }),
    v.object({ kind: v.literal('map'), low: finite, high: finite, length: finite, window: finite }),
  ]),
})
export type FiguresRequest = v.InferOutput<typeof FiguresRequest>
export const FiguresAnswer = v.object({
  id: count,
  envelope: v.optional(samples),
  decay: v.optional(
    v.object({ bands: v.array(made<BandDecay>('A band')), sti: v.nullable(v.number()), levels: v.boolean() }),
  ),
  map: v.optional(made<DepthMap & { falls: (number | null)[] }>('The map')),
  arrivals: v.array(made<EchoArrival>('An arrival')),
})
export type FiguresAnswer = v.InferOutput<typeof FiguresAnswer>

/** To the worker that fits filters. */
export const FitRequest = v.object({
  id: count,
  body: FitBody,
  /** dB RMS for which the fewest filters are wanted. */
  enough: v.optional(v.number()),
  /** Responses in which modes that ring are looked for; the arrival lies `start` seconds after the first sample. */
  responses: v.optional(v.array(v.object({ samples, sampleRate: v.number(), start: v.number() }))),
})
export type FitRequest = v.InferOutput<typeof FitRequest>
/** How far it is (0 to 1), what came of it, or why nothing did. */
export const FitAnswered = v.object({
  id: count,
  part: v.optional(v.number()),
  result: v.optional(FitAnswer),
  /** dB RMS that each filter buys. */
  worth: v.optional(v.array(v.number())),
  why: v.optional(v.string()),
})
export type FitAnswered = v.InferOutput<typeof FitAnswered>

const complex = v.object({ re: made<ArrayLike<number>>('A part'), im: made<ArrayLike<number>>('A part') })
/** To the worker that looks for the best sum of two sources. */
export const AlignRequest = v.object({
  id: count,
  frequencies: made<Float64Array>('The frequencies'),
  widths: made<Float64Array>('The widths'),
  pairs: v.array(v.object({ reference: complex, move: complex, apart: v.optional(v.number()) })),
  delay: v.tuple([v.number(), v.number()]),
  step: v.number(),
  weights: v.array(v.number()),
  names: v.array(v.string()),
  level: v.optional(v.tuple([v.number(), v.number()])),
  worst: v.optional(v.number()),
  even: v.optional(v.number()),
  /** What filters would do besides; the first is what is set now. */
  variants: v.array(v.object({ reference: v.optional(complex), move: v.optional(complex) })),
})
export type AlignRequest = v.InferOutput<typeof AlignRequest>
export const AlignAnswered = v.object({
  id: count,
  part: v.optional(v.number()),
  candidates: v.optional(v.array(made<VariantCandidate>('A candidate'))),
  /** By variant. */
  maps: v.optional(v.array(made<AlignMap>('A map'))),
  why: v.optional(v.string()),
})
export type AlignAnswered = v.InferOutput<typeof AlignAnswered>

/** To the worker that knows the whole job: how its steps stand, or what it proposes. */
export const TuneRequest = v.object({
  id: count,
  job: made<TuneJob>('The job'),
  /** For the steps; without it proposals are asked for. */
  facts: v.optional(made<StepFacts>('The facts')),
})
export type TuneRequest = v.InferOutput<typeof TuneRequest>
export const TuneAnswered = v.object({
  id: count,
  steps: v.optional(v.array(made<RunStep>('A step'))),
  /** How far it is (0 to 1), and what it looks at. */
  part: v.optional(v.number()),
  what: v.optional(v.string()),
  tuning: v.optional(made<Tuning>('The proposals')),
  why: v.optional(v.string()),
})
export type TuneAnswered = v.InferOutput<typeof TuneAnswered>

/** To the worker that reads files. */
export const FileRequest = v.object({ name: v.string(), bytes: v.instance(ArrayBuffer) })
export type FileRequest = v.InferOutput<typeof FileRequest>
const FileRead = v.object({
  curve: made<Curve>('The curve'),
  impulse: samples,
  sampleRate: v.number(),
  start: v.number(),
  blocks: v.number(),
  arrival: v.nullable(v.number()),
  delay: v.number(),
  note: v.string(),
})
export type FileRead = v.InferOutput<typeof FileRead>
export const FileAnswer = v.variant('ok', [
  v.object({ ok: v.literal(true), answer: FileRead }),
  v.object({ ok: v.literal(false), why: v.string() }),
])
export type FileAnswer = v.InferOutput<typeof FileAnswer>

/** To the worker that computes how the sources cover the areas. */
export const CoverageRequest = v.object({
  places: samples,
  radiators: v.array(made<Radiator>('A radiator')),
  air: Air,
  frequency: finite,
})
export type CoverageRequest = v.InferOutput<typeof CoverageRequest>
export const CoverageAnswer = made<Coverage>('The map')
export type CoverageAnswer = v.InferOutput<typeof CoverageAnswer>
