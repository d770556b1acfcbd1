import * as v from 'valibot'
import { windows, type WindowId } from '../../dsp'
import {
  bandParts,
  estimators,
  type EchoArrival,
  type Level,
  type RoomTold,
  type SoundLevel,
  type SweepResult,
} from '../../measure'
import { plan } from './generating'
import { column, columns, count, failure, Failed, finite, made, samples, shared } from './values'

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
const MetersNow = v.object({
  type: v.literal('meters'),
  channels: v.map(count, made<Level>('A level')),
  stalled: v.boolean(),
})
export type MetersNow = v.InferOutput<typeof MetersNow>
const LevelNow = v.object({ type: v.literal('level'), level: made<SoundLevel>('The level') })

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

const TakeFailed = failure('no-take')
const SweepFailed = failure('no-sweep')
/** A sweep on its way (0…1), the moment to play the next one, and what came out. */
const SweepProgress = v.object({ type: v.literal('sweeping'), done: v.number() })
const SweepNext = v.object({ type: v.literal('sweep-now') })
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
