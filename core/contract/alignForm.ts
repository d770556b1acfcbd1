import * as v from 'valibot'

const numberOf = (what: string, min: number, max: number) => {
  const words = `${what} must be a number from ${min} to ${max}`
  return v.pipe(v.number(words), v.finite(words), v.minValue(min, words), v.maxValue(max, words))
}
const pair = (what: string, min: number, max: number) =>
  v.pipe(
    v.strictTuple([numberOf(what, min, max), numberOf(what, min, max)], `${what} must be two numbers, [low, high]`),
    v.check(([low, high]) => high > low, `${what} must end above its start`),
  )
const source = (what: string) =>
  v.pipe(v.string(`${what} must name a source`), v.minLength(1, `${what} must name a source`), v.maxLength(200))

/** The options of `POST /api/analysis/align`, beside one WAV a source. */
export const AlignOptions = v.pipe(
  v.strictObject({
    reference: source('reference'),
    move: source('move'),
    /** Seconds that may be added to the moved source. */
    delay: pair('delay', -2, 2),
    step: v.optional(numberOf('step', 1e-7, 0.01)),
    polarity: v.boolean('polarity must be true (may be turned) or false'),
    level: v.optional(pair('level', -60, 60)),
    band: v.optional(pair('band', 1, 384_000)),
    weights: v.optional(v.pipe(
      v.array(numberOf('weights', 0, 1000), 'weights must be a list'), v.minLength(1), v.maxLength(64),
    )),
    worst: v.optional(numberOf('worst', -120, 0)),
  }),
  v.check(o => o.reference !== o.move, 'reference and move must be two sources'),
)
export type AlignOptions = v.InferOutput<typeof AlignOptions>

/** What it answers, best first. */
export const AlignAnswer = v.object({
  candidates: v.array(v.object({
    delay: v.number(),
    polarity: v.picklist([1, -1]),
    level: v.number(),
    score: v.number(),
    positions: v.array(v.number()),
    reasons: v.array(v.string()),
  })),
  band: v.tuple([v.number(), v.number()]),
})
export type AlignAnswer = v.InferOutput<typeof AlignAnswer>

/** The options of `POST /api/analysis/sum`, beside one WAV a source: how each source that is named goes into it. */
export const SumOptions = v.strictObject({
  sources: v.pipe(
    v.record(
      v.string(),
      v.strictObject({
        gain: v.optional(numberOf('gain', -200, 60), 0),
        delay: v.optional(numberOf('delay', -2, 10), 0),
        polarity: v.optional(v.picklist([1, -1], 'polarity must be 1 or -1'), 1),
      }),
      'sources must be an object by the names of the sources',
    ),
    v.check(s => Object.keys(s).length > 0, 'sources must name at least one source'),
  ),
})
export type SumOptions = v.InferOutput<typeof SumOptions>
