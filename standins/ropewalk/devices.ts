import {
  neutralSettings,
  writeParameter,
  type Capability,
  type ChannelCapability,
  type ParameterValue,
  type Settings,
} from '../../core/rig'

const gain = { min: -80, max: 12, step: 0.1 }
const frequency = { min: 20, max: 20_000, step: 0.1 }
const pass = {
  orders: { 'butterworth': [1, 2, 3, 4, 6, 8], 'linkwitz-riley': [2, 4, 6, 8], 'bessel': [2, 3, 4, 6, 8] },
  frequency,
}
const eq = (bands: number): ChannelCapability['eq'] => ({
  bands,
  types: ['peaking', 'low-shelf', 'high-shelf', 'all-pass', 'notch'],
  frequency,
  gain: { min: -24, max: 12, step: 0.1 },
  q: { min: 0.3, max: 30, step: 0.01 },
})

const processor: Capability = {
  version: 1,
  model: 'Ropewalk processor 8 × 16',
  kind: 'processor',
  sampleRate: 96_000,
  latency: 0.0012,
  inputs: { count: 8, channel: { gain, delay: { min: 0, max: 0.5, step: 1 / 96_000 }, eq: eq(6) } },
  outputs: {
    count: 16,
    channel: { gain, delay: { min: 0, max: 0.1, step: 1 / 96_000 }, highPass: pass, lowPass: pass, eq: eq(8) },
  },
  matrix: { min: -80, max: 12, step: 0.1 },
}

const amplifier = (model: string, channels: number): Capability => ({
  version: 1,
  model,
  kind: 'amplifier',
  sampleRate: 96_000,
  latency: 0.0004,
  inputs: { count: channels, channel: { gain: { min: -60, max: 0, step: 0.5 } } },
  outputs: {
    count: channels,
    channel: { gain: { min: -60, max: 0, step: 0.5 }, delay: { min: 0, max: 0.05, step: 1 / 96_000 }, eq: eq(4) },
  },
  matrix: null,
})

export interface StandinDevice {
  id: string
  name: string
  capability: Capability
  delivered: Settings
}

const apply = (settings: Settings, edits: [string, ParameterValue][]) =>
  edits.reduce((now, [path, value]) => writeParameter(now, path, value), settings)

const device = (
  id: string,
  name: string,
  capability: Capability,
  edits: [string, ParameterValue][] = [],
): StandinDevice => ({ id, name, capability, delivered: apply(neutralSettings(capability), edits) })

/**
 * The networked devices of Ropewalk Hall as they were left by the last crew: untuned, only Main L fed with the
 * test signal.
 */
export const ropewalkDevices: StandinDevice[] = [
  device('processor', 'System processor', processor, [
    ['/matrix/0/0', 0],
    ['/outputs/0/highPass', { on: true, family: 'butterworth', order: 4, frequency: 60 }],
    ['/outputs/1/highPass', { on: true, family: 'butterworth', order: 4, frequency: 60 }],
    ['/outputs/2/lowPass', { on: true, family: 'linkwitz-riley', order: 4, frequency: 120 }],
    ['/outputs/3/lowPass', { on: true, family: 'linkwitz-riley', order: 4, frequency: 120 }],
    ['/outputs/4/highPass', { on: true, family: 'butterworth', order: 3, frequency: 110 }],
    ['/outputs/4/gain', -6],
    // somebody's old correction that made the hall boom: worth finding
    ['/outputs/0/eq/0', { on: true, type: 'peaking', frequency: 160, gain: 4, q: 1.2 }],
  ]),
  device('amp-a', 'Amplifier A (mains, subs)', amplifier('Ropewalk amplifier 4', 4)),
  device('amp-b', 'Amplifier B (fills, delays)', amplifier('Ropewalk amplifier 4', 4), [['/outputs/1/gain', -3]]),
  device('amp-c', 'Amplifier C (100 V foyer)', amplifier('Ropewalk amplifier 2, 100 V', 2)),
]
