import { standardGrid } from '../dsp'
import type { OldSettings, OldSite } from './upgrades'

// For tests: a site as Kovrin's first version kept it, made by hand from its documents (formats.md of that version).

const range = (min: number, max: number, step: number) => ({ min, max, step })
const orders = { 'butterworth': [1, 2, 3, 4], 'linkwitz-riley': [2, 4, 8] }
const frequency = range(20, 20_000, 0.1)
const bands = {
  bands: 4,
  types: ['peaking', 'low-shelf'],
  frequency,
  gain: range(-15, 15, 0.1),
  q: range(0.1, 20, 0.01),
}
const pass = { orders, frequency }
const full = { gain: range(-80, 12, 0.1), delay: range(0, 0.1, 1e-5), highPass: pass, lowPass: pass, eq: bands }
const processor = {
  version: 1 as const,
  model: 'Old processor 4 × 4',
  kind: 'processor' as const,
  sampleRate: 96_000,
  latency: 0.0012,
  inputs: { count: 4, channel: { gain: range(-80, 12, 0.1) } },
  outputs: { count: 4, channel: full },
  matrix: range(-80, 12, 0.1),
}
const amplifier = {
  ...processor,
  model: 'Old amplifier 2',
  kind: 'amplifier' as const,
  inputs: { count: 2, channel: { gain: range(-80, 12, 0.5) } },
  outputs: { count: 2, channel: { gain: range(-80, 0, 0.5) } },
  matrix: null,
}

const off = { on: false, family: 'butterworth', order: 4, frequency: 80 }
const band = (frequency: number) => ({ on: false, type: 'peaking', frequency, gain: 0, q: 1.4 })
const plain = { gain: 0, mute: false, turned: false, delay: 0, highPass: off, lowPass: off, eq: [] as unknown[] }
const channels = (count: number, eq: number) =>
  Array.from({ length: count }, () => ({ ...plain, eq: Array.from({ length: eq }, (_, k) => band(100 * 2 ** k)) }))

/** The processor's settings: output 1 set in every way there was, the rest neutral. */
function processorSettings(): OldSettings {
  const matrix: (number | null)[][] = Array.from({ length: 4 }, () => [null, null, null, null])
  matrix[0]![0] = -3
  const outputs = channels(4, 4)
  const eq = outputs[0]!.eq.map((b, k) => (k === 1 ? { ...band(200), on: true, gain: -4.5 } : b))
  const highPass = { on: true, family: 'linkwitz-riley', order: 4, frequency: 90 }
  outputs[0] = { ...outputs[0]!, gain: -2, turned: true, delay: 0.0125, highPass, eq }
  return { version: 1, inputs: channels(4, 0), outputs, matrix }
}

/** Bytes of a take as the first version kept them: 'KVT1', points, 1 for coherence, samples, then float32 columns. */
export function firstTakeBytes(frequencies: Float64Array, level: number, impulse: Float32Array): Uint8Array {
  const points = frequencies.length
  const bytes = new Uint8Array(16 + 4 * (points * 4 + impulse.length))
  const view = new DataView(bytes.buffer)
  ;[0x4b56_5431, points, 1, impulse.length].forEach((v, k) => view.setUint32(4 * k, v, true))
  const columns = [
    frequencies,
    new Float64Array(points).fill(level),
    new Float64Array(points),
    new Float64Array(points).fill(0.9),
    impulse,
  ]
  let at = 16
  for (const c of columns) {
    for (const v of c) {
      view.setFloat32(at, v, true)
      at += 4
    }
  }
  return bytes
}

const info = {
  method: 'sweep',
  input: 'Old interface',
  sampleRate: 48_000,
  length: 131_072,
  blocks: 1,
  delay: 0.03,
  arrival: 0.03,
  microphoneLevel: null,
  referenceLevel: null,
  impulseStart: -0.01,
  revisions: { processor: 3 },
  geometry: { cabinets: [{ x: 2, y: 3, z: 4 }], microphone: { x: 9, y: 4, z: 1.2 } },
  sweep: {
    low: 20,
    high: 20_000,
    seconds: 3,
    level: -20,
    repeats: 1,
    signalToNoise: [{ middle: 1000, level: 41 }],
    harmonics: [{ order: 2, frequencies: [100, 1000], level: [-40, -50] }],
  },
}

/** A whole site of the first version, with one take; `base64` of its bytes comes from outside. */
export function firstSite(base64: (bytes: Uint8Array) => string): OldSite {
  const settings = processorSettings()
  const amplifierSettings: OldSettings = { version: 1, inputs: channels(2, 0), outputs: channels(2, 0), matrix: [] }
  const surfaces = Object.fromEntries(
    ['front', 'back', 'left', 'right', 'floor', 'ceiling'].map(side => [side, 'brick']),
  )
  const air = { temperature: 20, humidity: 45, pressure: 101.325 }
  const element = (y: number, channel: number) => ({
    model: 'top-12',
    place: { x: 2, y, z: 4 },
    aim: { turn: 0, tilt: 10 },
    output: { device: 'amp', channel },
  })
  return {
    version: 1,
    name: 'Old hall',
    plan: {
      room: { size: { x: 20, y: 10, z: 6 }, surfaces },
      air,
      airLater: { ...air, temperature: 26 },
      feed: { device: 'interface', channel: 0 },
      wires: [
        { from: { device: 'interface', channel: 0 }, to: { device: 'processor', channel: 0 } },
        ...[0, 1].map(channel => ({ from: { device: 'processor', channel }, to: { device: 'amp', channel } })),
      ],
    },
    sources: [
      { id: 'left', name: 'Left', hue: 0, elements: [element(3, 0)] },
      { id: 'right', name: 'Right', hue: 1, elements: [element(7, 1)] },
    ],
    positions: [{ id: 'desk', name: 'Desk', place: { x: 9, y: 4, z: 1.2 }, weight: 1, dash: 0 } as { id: string }],
    devices: [
      {
        id: 'processor',
        name: 'Processor',
        address: 'standin:processor',
        capability: processor,
        draft: settings,
        held: settings,
      },
      { id: 'amp', name: 'Amplifier', address: '', capability: amplifier, draft: amplifierSettings, held: null },
    ],
    takes: [
      {
        source: 'left',
        position: 'desk',
        name: 'Left · Desk 1',
        info,
        feed: { device: 'interface', channel: 0 },
        settings: { processor: settings, amp: amplifierSettings },
        who: 'Ann',
        at: '2026-05-04T10:00:00.000Z',
        note: 'the old one',
        data: base64(firstTakeBytes(standardGrid, 0.5, Float32Array.from([0, 1, 0.5, -0.25]))),
      },
    ],
  }
}
