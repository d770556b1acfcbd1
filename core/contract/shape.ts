import * as v from 'valibot'
import { families, widthConventions } from '../dsp'
import { fitKinds, type FitTask } from '../tune'

const numberOf = (what: string, min: number, max: number) =>
  v.pipe(
    v.number(`${what} must be a number`),
    v.minValue(min, `${what} must be ${min} to ${max}`),
    v.maxValue(max, `${what} must be ${min} to ${max}`),
  )
const frequency = numberOf('frequency', 0.001, 384_000)
const gain = numberOf('gain', -120, 60)
const q = v.optional(numberOf('q', 0.001, 1000))
const bandwidth = v.optional(numberOf('bandwidth', 0.001, 20))
const convention = v.optional(v.picklist(widthConventions, `convention must be ${widthConventions.join(', ')}`))
const slope = v.optional(numberOf('slope', 0.01, 10))
const width = { frequency, q, bandwidth, convention }

const pass = <K extends 'high-pass' | 'low-pass'>(kind: K) =>
  v.strictObject({
    kind: v.literal(kind),
    frequency,
    family: v.optional(v.picklist(families, `family must be ${families.join(', ')}`)),
    order: v.optional(v.pipe(numberOf('order', 1, 8), v.integer('order must be a whole number'))),
    q,
  })
const shelf = <K extends 'low-shelf' | 'high-shelf'>(kind: K) =>
  v.strictObject({ kind: v.literal(kind), frequency, gain, q, slope })

/** One block of a shape, as core/tune has it. */
const ShapeBody = v.variant('kind', [
  v.strictObject({ kind: v.literal('peaking'), gain, ...width }),
  shelf('low-shelf'),
  shelf('high-shelf'),
  v.strictObject({ kind: v.literal('notch'), ...width }),
  v.strictObject({ kind: v.literal('band-pass'), ...width }),
  v.strictObject({ kind: v.literal('all-pass'), ...width }),
  v.strictObject({ kind: v.literal('all-pass-1'), frequency }),
  pass('high-pass'),
  pass('low-pass'),
  v.strictObject({ kind: v.literal('delay'), seconds: numberOf('seconds', 0, 10) }),
  v.strictObject({ kind: v.literal('gain'), gain }),
  v.strictObject({ kind: v.literal('polarity') }),
  v.strictObject({
    kind: v.literal('fir'),
    taps: v.pipe(
      v.array(v.pipe(v.number('A tap must be a number'), v.finite('A tap must be a number'))),
      v.minLength(1, 'taps must have at least one coefficient'),
      v.maxLength(65_535, 'taps must have at most 65535 coefficients'),
    ),
  }),
], 'kind must be one of peaking, low-shelf, high-shelf, notch, band-pass, all-pass, all-pass-1, high-pass, low-pass, '
+ 'delay, gain, polarity, fir')

const most = 20_000
const numbers = (what: string, min: number, max: number, least: number) =>
  v.pipe(
    v.array(numberOf(`Each of ${what}`, min, max), `${what} must be a list of numbers`),
    v.minLength(least, `${what} must have at least ${least} ${least === 1 ? 'number' : 'numbers'}`),
    v.maxLength(most, `${what} must have at most ${most} numbers`),
  )
const ascending = (what: string, least: number) =>
  v.pipe(
    numbers(what, 0.001, 384_000, least),
    v.check(list => list.every((f, k) => k === 0 || f > list[k - 1]!), `${what} must ascend`),
  )
const sampleRate = numberOf('sampleRate', 8000, 768_000)

/** What `POST /api/analysis/response` is asked. */
export const ResponseBody = v.strictObject({
  sampleRate,
  /** Hz; a 48th of an octave from 15.6 Hz to 22 kHz, or to half the sample rate, unless given. */
  frequencies: v.optional(ascending('frequencies', 1)),
  blocks: v.pipe(v.array(ShapeBody, 'blocks must be a list'), v.maxLength(500, 'blocks must be at most 500')),
})
export type ResponseBody = v.InferOutput<typeof ResponseBody>

const pair = (what: string, min: number, max: number) =>
  v.pipe(
    v.strictTuple([numberOf(what, min, max), numberOf(what, min, max)], `${what} must be two numbers, [low, high]`),
    v.check(([low, high]) => high > low, `${what} must end above its start`),
  )
interface Columns {
  frequency_hz: number[]
  magnitude_db: number[]
  coherence?: number[] | undefined
  weight?: number | undefined
}
const equallyLong = (c: Columns) =>
  c.magnitude_db.length === c.frequency_hz.length && (c.coherence?.length ?? c.frequency_hz.length)
  === c.frequency_hz.length
const uneven = 'frequency_hz, magnitude_db and coherence must be equally long'
const levels = {
  frequency_hz: ascending('frequency_hz', 2),
  magnitude_db: numbers('magnitude_db', -300, 300, 2),
}

/** What `POST /api/analysis/fit` is asked. */
export const FitBody = v.strictObject({
  sampleRate,
  curves: v.pipe(
    v.array(
      v.pipe(
        v.strictObject({
          ...levels,
          coherence: v.optional(numbers('coherence', 0, 1, 2)),
          weight: v.optional(numberOf('weight', 0, 1000)),
        }),
        v.check(equallyLong, uneven),
      ),
      'curves must be a list',
    ),
    v.minLength(1, 'curves must have at least one curve'),
    v.maxLength(64, 'curves must be at most 64'),
  ),
  target: v.union(
    [v.literal('flat'), v.pipe(v.strictObject(levels), v.check(equallyLong, uneven))],
    'target must be "flat", or frequency_hz (ascending) and magnitude_db, equally long',
  ),
  range: pair('range', 1, 384_000),
  bands: v.pipe(numberOf('bands', 1, 32), v.integer('bands must be a whole number')),
  gain: pair('gain', -60, 60),
  q: pair('q', 0.01, 200),
  kinds: v.optional(
    v.pipe(
      v.array(v.picklist(fitKinds, `kinds must be of ${fitKinds.join(', ')}`), 'kinds must be a list'),
      v.minLength(1, 'kinds must have at least one kind'),
    ),
    ['peaking'],
  ),
  fill: v.optional(v.boolean('fill must be true or false'), false),
})
export type FitBody = v.InferOutput<typeof FitBody>

/** The wish of a body as core/tune has it. */
export function wishOf({ curves, target, kinds, ...rest }: FitBody): FitTask {
  const named = (c: { frequency_hz: number[], magnitude_db: number[] }) =>
    ({ frequencies: c.frequency_hz, levels: c.magnitude_db })
  return {
    ...rest,
    curves: curves.map(c => ({ ...named(c), coherence: c.coherence, weight: c.weight })),
    target: target === 'flat' ? target : named(target),
    kinds: [...new Set(kinds)],
  }
}

const left = v.array(v.object({ frequency: v.number(), reason: v.string() }))
const fitted = v.object({ kind: v.picklist(fitKinds), frequency: v.number(), gain: v.number(), q: v.number() })
/** What it answers: filters, dB added to the target, dB RMS before and after, and what was left alone and why. */
export const FitAnswer = v.object({
  filters: v.array(fitted),
  level: v.number(),
  before: v.number(),
  after: v.number(),
  left,
})
export type FitAnswer = v.InferOutput<typeof FitAnswer>
