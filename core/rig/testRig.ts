import { holdAll, type BlockCapability, type Capability, type Rig, type Settings } from './index'

// A made-up rig for tests: a processor 2 × 3 with a matrix, and an amplifier of three channels.

const range = { min: -80, max: 12, step: 0.1 }
const frequency = { min: 20, max: 20_000, step: 0.1 }
const orders = { 'butterworth': [1, 2, 3, 4], 'linkwitz-riley': [2, 4, 8] }
const list = (count: number) => Array.from({ length: count }, (_, n) => n)
const plain = [
  { kind: 'gain', id: 'gain', range },
  { kind: 'mute', id: 'mute' },
  { kind: 'polarity', id: 'polarity' },
] as BlockCapability[]
const times = { min: 0, max: 1, step: 0.001 }

export const outputBlocks = [
  ...plain,
  { kind: 'delay', id: 'delay', range: { min: 0, max: 0.1, step: 1 / 96_000 } },
  { kind: 'pass', id: 'highPass', side: 'high', orders, frequency },
  { kind: 'pass', id: 'lowPass', side: 'low', orders, frequency },
  {
    kind: 'band',
    id: 'eq',
    count: 4,
    types: ['peaking', 'low-shelf', 'high-shelf'],
    frequency,
    gain: { min: -24, max: 12, step: 0.1 },
    q: { min: 0.3, max: 30, step: 0.01 },
  },
  { kind: 'fir', id: 'fir', length: 64 },
  {
    kind: 'graphic',
    id: 'graphic',
    frequencies: [100, 1000, 10_000],
    q: 1.4,
    gain: { min: -12, max: 12, step: 0.5 },
  },
  {
    kind: 'limiter',
    id: 'limiter',
    detectors: ['peak', 'rms'],
    threshold: { min: -40, max: 0, step: 0.5 },
    attack: times,
    hold: times,
    release: times,
  },
] as BlockCapability[]

export const processor: Capability = {
  version: 2,
  model: 'Test processor',
  kind: 'processor',
  sampleRate: 96_000,
  latency: 0.001,
  inputs: list(3).map(n => ({ name: `Input ${n + 1}`, kind: 'line' })),
  outputs: list(3).map(n => ({ name: `Output ${n + 1}`, kind: 'line', strip: `outputs/${n}` })),
  strips: [
    {
      id: 'inputs/0',
      name: 'Input 1',
      from: { port: 0 },
      blocks: [
        {
          kind: 'select',
          id: 'source',
          options: [
            { id: 'a', name: 'A', port: 0 },
            { id: 'b', name: 'B', port: 2 },
          ],
        } as BlockCapability,
        ...plain,
      ],
    },
    { id: 'inputs/1', name: 'Input 2', from: { port: 1 }, blocks: plain },
    ...list(3).map(n => ({
      id: `outputs/${n}`,
      name: `Output ${n + 1}`,
      from: { mixer: 'matrix' },
      blocks: outputBlocks,
    })),
  ],
  mixers: [
    {
      id: 'matrix',
      name: 'Matrix',
      from: ['inputs/0', 'inputs/1'],
      to: list(3).map(n => `outputs/${n}`),
      crosspoint: { kind: 'crosspoint', id: 'point', range: { min: -80, max: 10, step: 0.5 } } as BlockCapability,
    },
  ],
  sensors: [],
  slots: 0,
}

export const amplifier: Capability = {
  version: 2,
  model: 'Test amplifier',
  kind: 'amplifier',
  sampleRate: 96_000,
  latency: 0.0005,
  inputs: list(3).map(n => ({ name: `Input ${n + 1}`, kind: 'line' })),
  outputs: list(3).map(n => ({ name: `Output ${n + 1}`, kind: 'loudspeaker', strip: `outputs/${n}` })),
  strips: [
    ...list(3).map(n => ({ id: `inputs/${n}`, name: `Input ${n + 1}`, from: { port: n }, blocks: plain })),
    ...list(3).map(n => ({
      id: `outputs/${n}`,
      name: `Output ${n + 1}`,
      from: { strip: `inputs/${n}` },
      blocks: plain,
    })),
  ],
  mixers: [],
  sensors: [],
  slots: 0,
}

export const feed = { device: 'interface', channel: 0 }
export const to = { device: 'amp', channel: 1 }

/**
 * The rig with settings: the feed into the processor, its outputs into the amplifier; 'top' on output 2, 'pair'
 * on 1 and 3.
 */
export const rigOf = (settings: Settings, amp: Settings = {}): Rig => ({
  devices: {
    dsp: { capability: processor, settings: holdAll(processor, settings) },
    amp: { capability: amplifier, settings: holdAll(amplifier, amp) },
  },
  wiring: {
    cables: {
      'dsp:0': feed,
      'amp:0': { device: 'dsp', channel: 0 },
      'amp:1': { device: 'dsp', channel: 1 },
      'amp:2': { device: 'dsp', channel: 2 },
    },
    drives: {
      'top:0:full': to,
      'pair:0:full': { device: 'amp', channel: 0 },
      'pair:1:full': { device: 'amp', channel: 2 },
    },
  },
})
export const routed: Settings = { '/matrix/0/1': 0 }
export const tuned: Settings = {
  '/matrix/0/1': -2,
  '/outputs/1/highPass': { on: true, family: 'linkwitz-riley', order: 4, frequency: 90 },
  '/outputs/1/eq/2': { on: true, type: 'peaking', frequency: 2500, gain: -5, q: 3 },
  '/outputs/1/gain': -4,
  '/outputs/1/delay': 0.005,
  '/outputs/1/polarity': 'inverted',
}
