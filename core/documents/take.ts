import * as v from 'valibot'
import { Place } from '../acoustics'
import { Endpoint } from '../rig'
import { hue, id } from './parts'

const finite = v.pipe(v.number(), v.finite())
const text = (most: number) => v.pipe(v.string(), v.maxLength(most), v.check(t => !t.includes('\u0000'), 'no NUL'))
const TakeName = v.pipe(text(120), v.trim(), v.minLength(1, 'A take needs a name'))

const takeMethods = ['live', 'sweep', 'import', 'average'] as const

/** How a take was made. Times in seconds, levels in dBFS RMS, frequencies in Hz. */
export const TakeInfo = v.strictObject({
  method: v.picklist(takeMethods),
  input: text(200),
  sampleRate: v.pipe(finite, v.minValue(8000), v.maxValue(768_000)),
  length: v.pipe(v.number(), v.integer(), v.minValue(64), v.maxValue(2 ** 21)),
  blocks: v.pipe(v.number(), v.integer(), v.minValue(1)),
  arrival: v.nullable(finite),
  microphoneLevel: v.nullable(finite),
  referenceLevel: v.nullable(finite),
  /** What was swept, where it was a sweep. */
  sweep: v.nullable(v.strictObject({
    low: finite,
    high: finite,
    seconds: finite,
    level: finite,
    repeats: finite,
  })),
})
export type TakeInfo = v.InferOutput<typeof TakeInfo>

/** When a take's sound came, and by which clock: enough to sum takes as complex numbers. */
export const Timing = v.strictObject({
  /** Name of the reference channel; takes with the same one share their time. */
  reference: text(200),
  /** Microphone and reference ran by one clock. */
  sameClock: v.boolean(),
  /** Parts per million by which the microphone's clock drifted, where it was taken out. */
  drift: v.nullable(finite),
  /** Delay taken out of the curve's phase. */
  delay: finite,
})
export type Timing = v.InferOutput<typeof Timing>

/** One kept measurement beside its data, which is stored as bytes (formats/take). */
export const Take = v.strictObject({
  id,
  source: id,
  position: id,
  /** The one output that sounded; null: all of the source's. */
  only: v.nullable(Endpoint),
  /** Other sources that sounded with it. */
  also: v.optional(v.array(id)),
  name: TakeName,
  note: text(2000),
  /** Colour of its own; null: its source's. */
  hue: v.nullable(hue),
  /** For viewing only: dB added, seconds taken out. */
  offset: v.pipe(finite, v.minValue(-120), v.maxValue(120)),
  shift: v.pipe(finite, v.minValue(-5), v.maxValue(5)),
  /** When it arrived, after the reference, as somebody read it off the impulse response. */
  arrival: v.optional(v.pipe(finite, v.minValue(-1), v.maxValue(5))),
  /** Place among the takes of its cell, earlier first; null: by its time. */
  place: v.nullable(finite),
  deleted: v.boolean(),
  who: text(60),
  at: v.pipe(v.string(), v.isoTimestamp()),
  info: TakeInfo,
  timing: Timing,
  /** Hash of the snapshot of the rig that it was made with; null: it was not measured here. */
  snapshot: v.nullable(v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/))),
  /** Where cabinets and microphone stood. */
  geometry: v.nullable(v.strictObject({ cabinets: v.array(Place), microphone: Place })),
})
export type Take = v.InferOutput<typeof Take>

const isMeasured = ({ info }: Take): boolean => info.method === 'live' || info.method === 'sweep'

/** True for what was measured here, of all of its source and nothing else: only that makes a ledger's cell fresh. */
export const tellsCell = (take: Take): boolean => !take.only && !take.also?.length && isMeasured(take)

/** True for what was measured here of several sources together. */
export const isCombined = (take: Take): boolean => Boolean(take.also?.length) && isMeasured(take)

/** Every source that sounded in a take. */
export const soundedIn = ({ source, also = [] }: Take): string[] => [source, ...also]

/** When a take's sound arrived after the reference: as read by hand, else as found; null where it could not be told. */
export const arrivedAt = ({ arrival, info }: Take): number | null => arrival ?? info.arrival
