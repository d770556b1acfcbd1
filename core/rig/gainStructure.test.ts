import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { createLimiter } from '../dsp'
import { amplifier, processor, rigOf } from './testRig'
import {
  gainStructure, pathResponse, routeTo, thresholdFor, thresholdVolts, voltsAtFullScale, voltsOf,
  type Capability, type Rig,
} from './index'

const rate = 48_000
const decibels = (min: number, max: number) => fc.integer({ min: 10 * min, max: 10 * max }).map(n => n / 10)
const volts = fc.integer({ min: 1, max: 2000 }).map(n => n / 10)

/** The test amplifier with a matrix of its own between inputs and outputs, as many amplifiers have. */
const routing: Capability = {
  ...amplifier,
  strips: amplifier.strips.map(s => (s.id.startsWith('outputs') ? { ...s, from: { mixer: 'routing' } } : s)),
  mixers: [{ ...processor.mixers[0]!, id: 'routing', from: ['inputs/0', 'inputs/1'], to: ['outputs/1'] }],
}
const scaled = (c: Capability, inputs: number, outputs: number): Capability => ({
  ...c,
  inputs: c.inputs.map(p => ({ ...p, fullScale: inputs })),
  outputs: c.outputs.map(p => ({ ...p, fullScale: outputs })),
})
const first = { device: 'dsp', channel: 1 }
const last = { device: 'amp', channel: 1 }

const rigs = fc.record({
  line: volts,
  input: volts,
  loudspeaker: volts,
  trim: decibels(-40, 10),
  point: decibels(-40, 10),
  gain: decibels(-40, 12),
  inverted: fc.boolean(),
  muted: fc.boolean(),
}).map(({ line, input, loudspeaker, trim, point, gain, inverted, muted }): Rig => {
  const rig = rigOf({ '/matrix/0/1': 0 })
  return {
    ...rig,
    devices: {
      dsp: { ...rig.devices.dsp!, capability: scaled(processor, line, line) },
      amp: {
        capability: scaled(routing, input, loudspeaker),
        settings: {
          '/inputs/1/gain': trim,
          '/routing/1/0': point,
          '/outputs/1/gain': gain,
          '/outputs/1/polarity': inverted ? 'inverted' : 'normal',
          '/outputs/1/mute': muted,
        },
      },
    },
  }
})

/** RMS volts at the loudspeaker of what a limiter lets through of a sine far above its threshold, sample by sample. */
function heldVolts(rig: Rig, detector: 'peak' | 'rms', threshold: number): number {
  const sine = Float32Array.from({ length: rate / 2 }, (_, n) => 4 * Math.sin((2 * Math.PI * 1000 * n) / rate))
  const limit = createLimiter(rate)
  limit(sine, sine.slice(), { detector, threshold, attack: detector === 'peak' ? 0 : 0.02, hold: 0.1, release: 1 })
  const still = sine.subarray(rate / 4)
  const power = still.reduce((sum, x) => sum + x * x, 0) / still.length
  const open = { ...rig.devices.amp!.settings, '/outputs/1/mute': false }
  const opened = { ...rig, devices: { ...rig.devices, amp: { ...rig.devices.amp!, settings: open } } }
  const { re, im } = pathResponse(opened, first, last, Float64Array.of(1000))
  const port = (device: string, side: 'inputs' | 'outputs') => rig.devices[device]!.capability[side][1]!.fullScale!
  const atInput = Math.sqrt(2 * power) * port('dsp', 'outputs') / port('amp', 'inputs')
  return atInput * Math.hypot(re[0]!, im[0]!) * port('amp', 'outputs')
}

describe('a limiter’s threshold and what reaches the loudspeaker', () => {
  it('is the limit asked for within 0.1 dB, whatever gains and crosspoints lie behind it, by either detector', () => {
    fc.assert(fc.property(rigs, volts, fc.constantFrom('peak', 'rms'), (rig, limit, detector) => {
      const fullScale = voltsAtFullScale(rig, first, last)!
      const threshold = thresholdFor(limit, fullScale, detector)
      fc.pre(threshold < 0 && threshold > -80)
      expect(20 * Math.log10(heldVolts(rig, detector, threshold) / limit)).toBeCloseTo(0, 1)
      expect(thresholdVolts(fullScale, { detector, threshold })).toBeCloseTo(limit, 6)
    }), { numRuns: 60 })
  })
  it('counts what is switched behind it in its own strip', () => {
    const [limiter, gain] = ['limiter', 'gain'].map(kind => processor.strips[2]!.blocks.find(b => b.kind === kind)!)
    const strips = processor.strips.map(s => (s.id.startsWith('outputs') ? { ...s, blocks: [limiter!, gain!] } : s))
    const rig = rigOf({}, {})
    rig.devices.dsp = {
      capability: { ...scaled(processor, 4, 4), strips }, settings: { '/outputs/1/gain': 6 },
    }
    rig.devices.amp = { ...rig.devices.amp!, capability: scaled(amplifier, 4, 50) }
    expect(voltsAtFullScale(rig, first, last, '/outputs/1/limiter')! / 50).toBeCloseTo(10 ** (6 / 20), 6)
  })
  it('adds ways that run side by side', () => {
    const rig = rigOf({})
    rig.wiring.cables['amp:0'] = first
    rig.devices.dsp = { ...rig.devices.dsp!, capability: scaled(processor, 4, 4) }
    rig.devices.amp = {
      capability: scaled(routing, 4, 50), settings: { '/routing/0/0': 0, '/routing/1/0': 0 },
    }
    expect(voltsAtFullScale(rig, first, last)).toBeCloseTo(100, 6)
  })
  it('is unknown where a full scale is, and silent where the ribbon is', () => {
    const rig = rigOf({ '/matrix/0/1': 0 })
    expect(voltsAtFullScale(rig, first, last)).toBeNull()
    const route = routeTo(rigOf({}), { device: 'interface', channel: 0 }, last)!
    const stages = gainStructure(rigOf({}), route, { level: -20, fullScale: 1 })
    expect(stages.map(s => s.out.level)).toEqual([-20, null, null, null])
    expect(voltsOf(stages.at(-1)!.out)).toBeNull()
  })
})
