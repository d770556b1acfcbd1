import type { Capability } from '../capability'
import type { Label } from '../../words'
import {
  channels, delay, eq, input, level, limiter, line, loudspeaker, matrix, output, pass, switches,
} from './parts'

/** A kind of device that can be put into a rig before one answers. */
export interface DeviceKind {
  /** What it is called, by its code in the catalogue of words. */
  name: Label
  capability: Capability
}

function processor(inputs: number, outputs: number, model: string): Capability {
  const ends = [delay(0.1), pass('highPass', 'high'), pass('lowPass', 'low'), eq(8, 'half-gain'), limiter]
  return {
    version: 2,
    model,
    kind: 'processor',
    sampleRate: 96_000,
    latency: 0.0012,
    inputs: channels(inputs).map(n => line(`Input ${n + 1}`)),
    outputs: channels(outputs).map(n => ({ ...line(`Output ${n + 1}`), strip: `outputs/${n}` })),
    strips: [
      ...channels(inputs).map(n => input(n, [level(-80, 12, 0.1), ...switches, delay(2), eq(6, 'half-gain')])),
      ...channels(outputs).map(n => output(n, { mixer: 'matrix' }, [level(-80, 12, 0.1), ...switches, ...ends])),
    ],
    mixers: matrix(inputs, outputs),
    sensors: [],
    slots: 20,
  }
}

/** An amplifier of so many volts RMS at the loudspeaker; one for 100 V lines always has its high-pass. */
function amplifier(count: number, fullScale: number, model: string, filters = [eq(4, 'resonance')]): Capability {
  const blocks = [level(-60, 0, 0.5), ...switches]
  return {
    version: 2,
    model,
    kind: 'amplifier',
    sampleRate: 96_000,
    latency: 0.0004,
    inputs: channels(count).map(n => line(`Input ${n + 1}`)),
    outputs: channels(count).map(n => loudspeaker(n, fullScale)),
    strips: [
      ...channels(count).map(n => input(n, blocks)),
      ...channels(count).map(n =>
        output(n, { strip: `inputs/${n}` }, [...blocks, delay(0.05), ...filters, limiter])),
    ],
    mixers: [],
    sensors: [],
    slots: 5,
  }
}

/** A loudspeaker with its amplifier inside. */
const powered: Capability = {
  ...amplifier(1, 40, 'Powered loudspeaker', [pass('highPass', 'high'), eq(6, 'half-gain')]),
  kind: 'loudspeaker',
}

/** A device of which nothing is known before it answers. */
const untold: Capability = {
  version: 2,
  model: 'Device',
  kind: 'processor',
  sampleRate: 48_000,
  latency: 0,
  inputs: [],
  outputs: [],
  strips: [],
  mixers: [],
  sensors: [],
  slots: 0,
  assumed: ['sampleRate', 'latency'],
}

/**
 * Kinds of devices to build a rig from before anything is connected: what a device says of itself takes their place
 * as soon as it answers. A new kind is one line here.
 */
export const deviceKinds = {
  'processor-8x16': { name: 'device.processor8x16', capability: processor(8, 16, 'System processor 8 × 16') },
  'processor-8x24': { name: 'device.processor8x24', capability: processor(8, 24, 'System processor 8 × 24') },
  'processor-2x6': { name: 'device.processor2x6', capability: processor(2, 6, 'Loudspeaker processor 2 × 6') },
  'amplifier-4': { name: 'device.amplifier4', capability: amplifier(4, 70, 'Amplifier, 4 channels') },
  'amplifier-2': { name: 'device.amplifier2', capability: amplifier(2, 70, 'Amplifier, 2 channels') },
  'amplifier-2-line': {
    name: 'device.amplifier2Line',
    capability: amplifier(2, 100, 'Amplifier, 2 channels, 100 V', [pass('highPass', 'high'), eq(4, 'resonance')]),
  },
  'loudspeaker': { name: 'device.loudspeaker', capability: powered },
  'other': { name: 'device.other', capability: untold },
} as const satisfies Record<string, DeviceKind>
export type DeviceKindId = keyof typeof deviceKinds
