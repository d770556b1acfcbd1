import * as v from 'valibot'
import { windows } from '../dsp'
import { bandParts, estimators } from '../measure'
import { AlignOptions, SumOptions } from './alignForm'
import { FitBody, ResponseBody } from './shape'

const number = (min: number, max: number, what: string) =>
  v.pipe(
    v.string(`${what} must be given once`),
    v.trim(),
    v.nonEmpty(`${what} is empty`),
    v.transform(Number),
    v.number(`${what} must be a number`),
    v.minValue(min, `${what} must be ${min} to ${max}`),
    v.maxValue(max, `${what} must be ${min} to ${max}`),
  )
const whole = (min: number, max: number, what: string) =>
  v.pipe(number(min, max, what), v.integer(`${what} must be a whole number`))
const channel = (what: string, usual: string) => v.optional(whole(1, 64, what), usual)
const part = v.optional(
  v.pipe(
    v.picklist(['1', '3'], 'part must be 1 or 3'),
    v.transform(p => Number(p) as 1 | 3),
  ),
  '1',
)

const octaveLevels = (what: string) =>
  v.optional(
    v.pipe(
      v.string(`${what} must be given once`),
      v.transform(text => text.split(',').map(t => (t.trim() === '' ? NaN : Number(t)))),
      v.check(
        list => list.length === 7 && list.every(x => x >= -20 && x <= 140),
        `${what} must be seven levels from -20 to 140 dB, for 125 Hz to 8 kHz, with commas between`,
      ),
    ),
  )
/** Levels of speech and noise at the listener, for the speech transmission index. */
const speech = { speech: octaveLevels('speech'), noise: octaveLevels('noise') }

/** Options of each analysis as they come in a query string. Channels count from 1. */
export const queries = {
  transfer: v.strictObject({
    mic: channel('mic', '1'),
    ref: channel('ref', '2'),
    /** Block length, 2^10 to 2^17, or `multi`. */
    length: v.optional(
      v.union(
        [
          v.literal('multi'),
          v.pipe(
            whole(1024, 131_072, 'length'),
            v.check(n => (n & (n - 1)) === 0, 'length must be a power of two, or multi'),
          ),
        ],
        'length must be a power of two from 1024 to 131072, or multi',
      ),
      'multi',
    ),
    /** Blocks of a running mean; all of the recording unless given. */
    blocks: v.optional(whole(1, 64, 'blocks')),
    estimator: v.optional(v.picklist(estimators, `estimator must be ${estimators.join(', ')}`), 'H1'),
    window: v.optional(
      v.picklist(
        Object.keys(windows) as (keyof typeof windows)[],
        'window must be hann, blackman-harris or rectangular',
      ),
      'hann',
    ),
    /** Parts of an octave; 48 leaves the curve as it is. */
    smoothing: v.optional(number(1, 48, 'smoothing'), '48'),
    /** `auto`, or milliseconds. */
    delay: v.optional(
      v.union([v.literal('auto'), number(-1000, 5000, 'delay')], 'delay must be auto or milliseconds'),
      'auto',
    ),
  }),
  sweep: v.pipe(
    v.strictObject({
      mic: channel('mic', '1'),
      ref: channel('ref', '2'),
      /** The sweep that was played: its range in Hz and length in seconds (its harmonics lie by them). */
      low: v.optional(number(1, 10_000, 'low'), '20'),
      high: v.optional(number(100, 100_000, 'high'), '20000'),
      seconds: v.optional(number(0.1, 60, 'seconds'), '3'),
      /** Seconds of response to keep. */
      longest: v.optional(number(0.1, 10, 'longest'), '3'),
      part,
      ...speech,
      answer: v.optional(v.picklist(['json', 'wav'], 'answer must be json or wav'), 'json'),
    }),
    v.check(q => q.high >= 2 * q.low, 'high must be at least an octave over low'),
  ),
  decay: v.strictObject({ mic: channel('mic', '1'), part, ...speech }),
  bands: v.strictObject({
    mic: channel('mic', '1'),
    part: v.optional(
      v.pipe(v.picklist(bandParts.map(String), `part must be ${bandParts.join(', ')}`), v.transform(Number)),
      '3',
    ),
    /** Time weighting of the largest level of each band. */
    time: v.optional(v.picklist(['fast', 'slow'], 'time must be fast or slow'), 'fast'),
  }),
  level: v.strictObject({
    mic: channel('mic', '1'),
    weighting: v.optional(v.picklist(['A', 'C', 'Z'], 'weighting must be A, C or Z'), 'A'),
    time: v.optional(v.picklist(['fast', 'slow', 'impulse'], 'time must be fast, slow or impulse'), 'fast'),
    /** dB added to full scale. */
    calibration: v.optional(number(-50, 250, 'calibration'), '0'),
    /** Seconds of the running equivalent level. */
    running: v.optional(number(0.1, 3600, 'running'), '60'),
    /** A level that is exceeded for so many per cent of the time, besides L10, L50 and L90. */
    exceeded: v.optional(number(0.1, 99.9, 'exceeded')),
  }),
}
export type RecordingId = keyof typeof queries
/** What is computed of a recording, with its options. */
export type RecordingJob = { [K in RecordingId]: { what: K, query: v.InferOutput<(typeof queries)[K]> } }[RecordingId]

/** What is asked of each analysis that needs no recording. */
export const bodies = { response: ResponseBody, fit: FitBody }
export type ShapeId = keyof typeof bodies
export type ShapeJob = { [K in ShapeId]: { what: K, body: v.InferOutput<(typeof bodies)[K]> } }[ShapeId]

/** What is asked of each analysis of several files at once: their part `options`. */
export const options = { align: AlignOptions, sum: SumOptions }
export type PartsId = keyof typeof options
/** A form of several files: the `content-type` that its bytes came with. */
export interface PartsJob {
  what: PartsId
  form: string
}
export type AnalysisJob = RecordingJob | ShapeJob | PartsJob
