import * as v from 'valibot'
import { families } from '../dsp'
import { bandTypes, type Capability, type ChannelCapability } from './capability'

const finite = v.pipe(v.number(), v.finite())

/** High- or low-pass: `order` times 6 dB an octave, frequency in Hz. */
export const Pass = v.strictObject({
  on: v.boolean(),
  family: v.picklist(families),
  order: v.pipe(v.number(), v.integer()),
  frequency: finite,
})
export type Pass = v.InferOutput<typeof Pass>

/** One EQ band: frequency in Hz, gain in dB (no effect on all-pass and notch). */
export const Band = v.strictObject({
  on: v.boolean(),
  type: v.picklist(bandTypes),
  frequency: finite,
  gain: finite,
  q: finite,
})
export type Band = v.InferOutput<typeof Band>

/** Gain in dB, delay in seconds, `turned` = polarity inverted. A null block is one that the device does not have. */
export const Channel = v.strictObject({
  gain: finite,
  mute: v.boolean(),
  turned: v.boolean(),
  delay: finite,
  highPass: v.nullable(Pass),
  lowPass: v.nullable(Pass),
  eq: v.array(Band),
})
export type Channel = v.InferOutput<typeof Channel>

/** Everything a device holds. `matrix[input][output]` is a level in dB, null = no connection. */
export const Settings = v.strictObject({
  version: v.literal(1),
  inputs: v.array(Channel),
  matrix: v.array(v.array(v.nullable(finite))),
  outputs: v.array(Channel),
})
export type Settings = v.InferOutput<typeof Settings>

const neutralChannel = (capability: ChannelCapability): Channel => ({
  gain: 0,
  mute: false,
  turned: false,
  delay: 0,
  highPass: capability.highPass
    ? {
        on: false,
        ...firstPass(capability.highPass.orders),
        frequency: Math.max(80, capability.highPass.frequency.min),
      }
    : null,
  lowPass: capability.lowPass
    ? {
        on: false,
        ...firstPass(capability.lowPass.orders),
        frequency: Math.min(16_000, capability.lowPass.frequency.max),
      }
    : null,
  eq: Array.from({ length: capability.eq?.bands ?? 0 }, (_, n) => ({
    on: false,
    type: 'peaking' as const,
    frequency: [100, 250, 500, 1000, 2000, 4000, 8000, 12_500][n % 8]!,
    gain: 0,
    q: 1.4,
  })),
})

function firstPass(orders: Partial<Record<Pass['family'], number[]>>) {
  const family = families.find(f => orders[f]?.length)!
  return { family, order: orders[family]!.includes(4) ? 4 : orders[family]![0]! }
}

/** Settings that pass everything unchanged, with nothing routed where there is a matrix. */
export function neutralSettings(capability: Capability): Settings {
  const { inputs, outputs } = capability
  return {
    version: 1,
    inputs: Array.from({ length: inputs.count }, () => neutralChannel(inputs.channel)),
    matrix: Array.from({ length: inputs.count }, (_, i) =>
      Array.from({ length: outputs.count }, (_, o) => (capability.matrix || i !== o ? null : 0)),
    ),
    outputs: Array.from({ length: outputs.count }, () => neutralChannel(outputs.channel)),
  }
}
