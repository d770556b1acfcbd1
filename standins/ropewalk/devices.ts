import { holdAll, type BlockCapability, type Capability, type Settings } from '../../core/rig'
import {
  channels, delay, eq, input, level, limiter, line, loudspeaker, matrix, output, pass, switches,
} from '../../core/rig/catalogue/parts'

/** Middles of third octaves (IEC 61260, nominal), with the Q of a third octave. */
const thirds = [
  20, 25, 31.5, 40, 50, 63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150,
  4000, 5000, 6300, 8000, 10_000, 12_500, 16_000, 20_000,
]
const steps = { min: -12, max: 12, step: 0.5 }
const graphic = { kind: 'graphic', id: 'graphic', frequencies: thirds, q: 4.32, gain: steps } as BlockCapability
const tone = {
  kind: 'graphic', id: 'tone', frequencies: [100, 1000, 8000], q: 0.7, gain: steps, shelves: true,
} as BlockCapability
/** Coefficients of the first outputs, for loudspeakers that come with a filter of their maker. */
const coefficients = { kind: 'fir', id: 'fir', length: 1024 } as BlockCapability

/** The last two inputs of the processor can listen to the network instead of their own connector. */
const networked = (n: number): BlockCapability[] =>
  n < 6
    ? []
    : [
        {
          kind: 'select',
          id: 'source',
          options: [
            { id: 'line', name: 'Line', port: n },
            { id: 'network', name: 'Network', port: 8 + n - 6 },
          ],
        } as BlockCapability,
      ]

const processor: Capability = {
  version: 2,
  model: 'Ropewalk processor 10 × 16',
  kind: 'processor',
  firmware: '2.1',
  sampleRate: 96_000,
  latency: 0.0012,
  inputs: [
    ...channels(8).map(n => line(`Input ${n + 1}`)),
    ...channels(2).map(n => ({ name: `Network ${n + 1}`, kind: 'network' as const })),
  ],
  outputs: channels(16).map(n => ({ ...line(`Output ${n + 1}`), strip: `outputs/${n}` })),
  strips: [
    ...channels(8).map(n => input(n, [
      ...networked(n), level(-80, 12, 0.1), ...switches, delay(2), ...(n < 6 ? [graphic] : [tone]), eq(6, 'half-gain'),
    ])),
    ...channels(16).map(n => output(n, { mixer: 'matrix' }, [
      level(-80, 12, 0.1), ...switches, delay(0.1), pass('highPass', 'high'), pass('lowPass', 'low'),
      eq(8, 'half-gain'), ...(n < 4 ? [coefficients] : []), { ...limiter, lookAhead: 0.001 } as BlockCapability,
    ])),
  ],
  mixers: matrix(8, 16),
  sensors: channels(16).map(n => ({
    id: `outputs/${n}/level`,
    name: `Level of output ${n + 1}`,
    kind: 'level',
    strip: `outputs/${n}`,
  })),
  slots: 20,
}

/** An amplifier whose full scale is so many volts RMS at the loudspeaker. */
const amplifier = (model: string, count: number, fullScale: number): Capability => ({
  version: 2,
  model,
  kind: 'amplifier',
  firmware: '1.4',
  sampleRate: 96_000,
  latency: 0.0004,
  inputs: channels(count).map(n => line(`Input ${n + 1}`)),
  outputs: channels(count).map(n => loudspeaker(n, fullScale)),
  strips: [
    ...channels(count).map(n => input(n, [level(-60, 0, 0.5), ...switches])),
    ...channels(count).map(n => output(n, { strip: `inputs/${n}` }, [
      level(-60, 0, 0.5), ...switches, delay(0.05), eq(4, 'resonance'), limiter,
    ])),
  ],
  mixers: [],
  sensors: channels(count).map(n => ({
    id: `outputs/${n}/heat`,
    name: `Temperature of channel ${n + 1}`,
    kind: 'temperature',
    strip: `outputs/${n}`,
  })),
  slots: 5,
})

export interface StandinDevice {
  id: string
  name: string
  capability: Capability
  delivered: Settings
}

const device = (id: string, name: string, capability: Capability, settings: Settings = {}): StandinDevice => ({
  id,
  name,
  capability,
  delivered: holdAll(capability, settings),
})

const butterworth = (order: number, frequency: number) => ({ on: true, family: 'butterworth', order, frequency })
const riley = (order: number, frequency: number) => ({ on: true, family: 'linkwitz-riley', order, frequency })

/** Inputs of the processor: Kovrin's own signal, then what comes from the console. */
export const processorInputs = { test: 0, left: 1, right: 2, sub: 3, fill: 4 } as const

/** Where the last crew connected the console before it ran out of time: mains and subs. */
const console = {
  '/matrix/1/0': 0,
  '/matrix/1/1': 0,
  '/matrix/2/2': 0,
  '/matrix/2/3': 0,
  '/matrix/3/4': 0,
  '/matrix/3/5': 0,
}
/** What was left to do: delays, fill, balcony. */
const rest = { '/matrix/1/6': 0, '/matrix/2/7': 0, '/matrix/4/8': 0, '/matrix/1/10': -6, '/matrix/2/10': -6 }

/** What every crew sets before it listens: the crossovers of the mains, and filters that keep drivers alive. */
const protection = {
  '/outputs/0/highPass': butterworth(4, 60),
  '/outputs/0/lowPass': riley(4, 1400),
  '/outputs/1/highPass': riley(4, 1400),
  '/outputs/2/highPass': butterworth(4, 60),
  '/outputs/2/lowPass': riley(4, 1400),
  '/outputs/3/highPass': riley(4, 1400),
  '/outputs/4/lowPass': riley(4, 120),
  '/outputs/5/lowPass': riley(4, 120),
  '/outputs/8/highPass': butterworth(3, 110),
}

const processorAsLeft: Settings = {
  ...console,
  ...protection,
  '/matrix/0/0': 0,
  '/matrix/0/1': 0,
  '/outputs/6/gain': -3,
  '/outputs/8/gain': -6,
  // somebody's old correction that made the hall boom: worth finding
  '/outputs/0/eq/0': { on: true, type: 'peaking', frequency: 160, gain: 4, q: 1.2 },
}

/**
 * The networked devices of Ropewalk Hall as they were left by the last crew: untuned, only Main L fed with the
 * test signal.
 */
export const ropewalkDevices: StandinDevice[] = [
  device('processor', 'System processor', processor, processorAsLeft),
  device('amp-a', 'Amplifier A (mains)', amplifier('Ropewalk amplifier 4', 4, 89)),
  device('amp-b', 'Amplifier B (subs, delays)', amplifier('Ropewalk amplifier 4', 4, 89), { '/outputs/2/gain': -3 }),
  device('amp-c', 'Amplifier C (100 V foyer, fill)', amplifier('Ropewalk amplifier 2, 100 V', 2, 100)),
]

/** The same devices as they were delivered with Kovrin's first version: rigs of that time find them so. */
export const firstDelivered: Record<string, Settings> = {
  'processor': holdAll(processor, {
    '/matrix/0/0': 0,
    '/outputs/0/highPass': butterworth(4, 60),
    '/outputs/1/highPass': butterworth(4, 60),
    '/outputs/2/lowPass': riley(4, 120),
    '/outputs/3/lowPass': riley(4, 120),
    '/outputs/4/highPass': butterworth(3, 110),
    '/outputs/4/gain': -6,
    '/outputs/0/eq/0': { on: true, type: 'peaking', frequency: 160, gain: 4, q: 1.2 },
  }),
  'amp-a': {},
  'amp-b': { '/outputs/1/gain': -3 },
  'amp-c': {},
}

const peak = (frequency: number, gain: number, q: number) => ({ on: true, type: 'peaking', frequency, gain, q })

/** The mains' correction, alike on both sides: the boxes first, then the room at the mix desk. */
const mains: Settings = Object.fromEntries(
  [
    [0, 1],
    [2, 3],
  ].flatMap(([low, high]) => [
    [`/outputs/${low}/eq/0`, peak(95, -2, 1.2)],
    [`/outputs/${low}/eq/1`, peak(1350, 1.5, 1.6)],
    [`/outputs/${low}/eq/2`, peak(280, -1.2, 3)],
    [`/outputs/${high}/eq/0`, peak(3150, -4, 2.2)],
    [`/outputs/${high}/delay`, 0],
  ]),
)

/** The same devices as a careful crew would leave them. */
export const tunedSettings: Record<string, Settings> = {
  'processor': holdAll(processor, {
    ...console,
    ...rest,
    ...protection,
    ...mains,
    '/matrix/0/0': 0,
    '/matrix/0/1': 0,
    '/outputs/8/gain': -6,
  }),
  'amp-a': {},
  'amp-b': {},
  'amp-c': {},
}
