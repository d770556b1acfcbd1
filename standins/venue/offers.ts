import { generatorTap, tapOf, type PresentDevice, type Tap } from '../../core/measure'
import { testFeed } from '../../core/rig'
import type { Decibels } from '../../core/units'

// What the simulated hall and its interface offer, as data alone: a page that shows it loads none of the acoustics.

/** Reflections that are followed one by one unless told otherwise. */
export const usualOrder = 3
/** Most that can be asked for: every further one costs four times the work. */
export const highestOrder = 5

/**
 * What goes on in the simulated hall beside the loudspeakers. Levels are dBFS RMS at the microphone, at their
 * loudest.
 */
export const backgrounds = {
  empty: { name: 'background.empty', level: -74 },
  hum: { name: 'background.hum', level: -48 },
  air: { name: 'background.air', level: -50 },
  audience: { name: 'background.audience', level: -38 },
  tram: { name: 'background.tram', level: -36 },
  wind: { name: 'background.wind', level: -40 },
  calibrator: { name: 'background.calibrator', level: -26 },
} as const satisfies Record<string, { name: string, level: Decibels }>
export type BackgroundId = keyof typeof backgrounds
export const backgroundIds = Object.keys(backgrounds) as BackgroundId[]

/** The simulated audio interface, and a simulated microphone with a converter and a clock of its own. */
export const simulatedInterface = 'simulated-interface'
const simulatedUsb = 'simulated-usb-microphone'
/**
 * How much faster the second device's clock runs, in parts per million: common practice for two crystals that
 * know nothing of each other.
 */
export const usbClock = 35
export const simulatedInputs: readonly PresentDevice[] = [
  {
    id: simulatedInterface,
    label: 'Simulated interface',
    channels: 8,
    names: [
      'Microphone 1',
      'Microphone 2',
      'Microphone 3',
      'Loopback, output 1',
      'Console left',
      'Console right',
      'not connected',
      'not connected',
    ],
  },
  { id: simulatedUsb, label: 'Simulated USB microphone', channels: 1, names: ['USB microphone'] },
]
export const simulatedOutputs = [
  'Output 1: processor, loopback',
  ...Array.from({ length: 7 }, (_, n) => `Output ${n + 2}: not connected`),
]
/** Gain that the last crew left on the third microphone's preamplifier: far too low. */
export const gainLeftBehind: Decibels = -36

/** Order of the channels that `process` fills: the interface's eight, the USB microphone, Kovrin's own generator. */
export const simulatedTaps = [
  ...Array.from({ length: 8 }, (_, n) => tapOf(simulatedInterface, n)),
  tapOf(simulatedUsb, 0),
  generatorTap,
]
/** Which of those are microphones. */
export const microphoneTaps = [0, 1, 2, 8].map(n => simulatedTaps[n]!)
export const loopback = 3
export const consoleLeft = 4
export const usb = 8
export const generator = 9

/** Feeds of the rig that the console plays its music into. */
export const consoleFeeds = ['left', 'right', 'sub', 'fill']
/** The feed that a reference channel hears: Kovrin's own, or the console's. */
export const feedOfTap = (tap: Tap): string =>
  ({ [simulatedTaps[consoleLeft]!]: 'left', [simulatedTaps[consoleLeft + 1]!]: 'right' })[tap] ?? testFeed
