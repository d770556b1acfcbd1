import type { BlockCapability } from '../blocks'
import type { Capability, Port, Strip } from '../capability'

// What capability documents of the catalogue are made of: blocks, connectors, strips.

const frequency = { min: 20, max: 20_000, step: 0.1 }
const orders = { 'butterworth': [1, 2, 3, 4, 6, 8], 'linkwitz-riley': [2, 4, 6, 8], 'bessel': [2, 3, 4, 6, 8] }
const block = (described: object) => described as BlockCapability

export const channels = (count: number) => Array.from({ length: count }, (_, n) => n)
export const level = (min: number, max: number, step: number) =>
  block({ kind: 'gain', id: 'gain', range: { min, max, step } })
export const switches: readonly BlockCapability[] = [
  block({ kind: 'mute', id: 'mute' }),
  block({ kind: 'polarity', id: 'polarity' }),
]
/** Up to `max` seconds, in samples of 96 kHz. */
export const delay = (max: number) => block({ kind: 'delay', id: 'delay', range: { min: 0, max, step: 1 / 96_000 } })
export const pass = (id: string, side: 'high' | 'low') => block({ kind: 'pass', id, side, orders, frequency })
/** Bands whose Q is between half-gain points, or that of the resonance: devices differ so. */
export const eq = (count: number, width: 'half-gain' | 'resonance') => block({
  kind: 'band',
  id: 'eq',
  count,
  types: [
    'peaking', 'low-shelf', 'high-shelf', 'notch', 'band-pass', 'high-pass', 'low-pass', 'all-pass', 'all-pass-1',
  ],
  frequency,
  gain: { min: -24, max: 12, step: 0.1 },
  q: { min: 0.3, max: 30, step: 0.01 },
  width,
})
export const limiter = block({
  kind: 'limiter',
  id: 'limiter',
  detectors: ['peak', 'rms'],
  threshold: { min: -40, max: 0, step: 0.5 },
  attack: { min: 0.0001, max: 0.1, step: 0.0001 },
  hold: { min: 0, max: 0.5, step: 0.001 },
  release: { min: 0.01, max: 5, step: 0.01 },
})
const crosspoint = block({ kind: 'crosspoint', id: 'point', range: { min: -80, max: 12, step: 0.1 } })

/** RMS voltage of a line connector at full scale: +18 dBu. */
export const lineVolts = 6.15
export const line = (name: string): Port => ({ name, kind: 'line', fullScale: lineVolts })
/** A connector of a loudspeaker that full scale drives with so many volts RMS. */
export const loudspeaker = (n: number, fullScale: number): Port =>
  ({ name: `Output ${n + 1}`, kind: 'loudspeaker', strip: `outputs/${n}`, fullScale })
export const input = (n: number, blocks: readonly BlockCapability[]): Strip =>
  ({ id: `inputs/${n}`, name: `Input ${n + 1}`, from: { port: n }, blocks: [...blocks] })
export const output = (n: number, from: Strip['from'], blocks: readonly BlockCapability[]): Strip =>
  ({ id: `outputs/${n}`, name: `Output ${n + 1}`, from, blocks: [...blocks] })
/** Every input to every output, each at a level of its own. */
export const matrix = (inputs: number, outputs: number): Capability['mixers'] => [{
  id: 'matrix',
  name: 'Matrix',
  from: channels(inputs).map(n => `inputs/${n}`),
  to: channels(outputs).map(n => `outputs/${n}`),
  crosspoint,
}]
