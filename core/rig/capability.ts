import * as v from 'valibot'
import { families, type Family } from '../dsp'

/** A numeric range as a device holds it; `step` is the smallest change that it can make. */
export const Range = v.pipe(
  v.strictObject({ min: v.number(), max: v.number(), step: v.pipe(v.number(), v.minValue(1e-9)) }),
  v.check(r => r.max > r.min, 'A range must end above its start'),
)
export type Range = v.InferOutput<typeof Range>

const order = v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(8))

export const bandTypes = ['peaking', 'low-shelf', 'high-shelf', 'all-pass', 'notch'] as const
export type BandType = (typeof bandTypes)[number]

/**
 * What a high- or low-pass of a device can be: the orders (6 dB an octave each) of every family it has.
 * Frequencies in Hz.
 */
const PassCapability = v.strictObject({
  orders: v.partial(
    v.strictObject(
      Object.fromEntries(families.map(f => [f, v.array(order)])) as Record<
        Family,
        v.ArraySchema<typeof order, undefined>
      >,
    ),
  ),
  frequency: Range,
})
export type PassCapability = v.InferOutput<typeof PassCapability>

/** Gain in dB, delay in seconds. A block that is absent is a block the device does not have. */
export const ChannelCapability = v.strictObject({
  gain: Range,
  delay: v.optional(Range),
  highPass: v.optional(PassCapability),
  lowPass: v.optional(PassCapability),
  eq: v.optional(
    v.strictObject({
      bands: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(64)),
      types: v.array(v.picklist(bandTypes)),
      frequency: Range,
      gain: Range,
      q: Range,
    }),
  ),
})
export type ChannelCapability = v.InferOutput<typeof ChannelCapability>

/** What a device is able to do, as the device itself states it. */
export const Capability = v.strictObject({
  version: v.literal(1),
  model: v.string(),
  kind: v.picklist(['processor', 'amplifier', 'interface', 'loudspeaker', 'controller']),
  /** Rate in Hz at which its filters run. */
  sampleRate: v.pipe(v.number(), v.minValue(8000), v.maxValue(768_000)),
  /** Time in seconds from input to output with every delay at zero. */
  latency: v.pipe(v.number(), v.minValue(0), v.maxValue(1)),
  inputs: v.strictObject({
    count: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(256)),
    channel: ChannelCapability,
  }),
  outputs: v.strictObject({
    count: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(256)),
    channel: ChannelCapability,
  }),
  /** Crosspoint levels in dB, or null when input n always feeds output n. */
  matrix: v.nullable(Range),
})
export type Capability = v.InferOutput<typeof Capability>
