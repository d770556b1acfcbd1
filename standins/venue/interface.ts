import type { Place } from '../../core/acoustics'
import { createInterpolator } from '../../core/dsp'
import { generatorTap, tapOf, type PresentDevice } from '../../core/measure'
import type { SitePlan, Source } from '../../core/rig'
import { ratioOf, type Decibels } from '../../core/units'
import { blockSize } from './convolver'
import { createProgramme } from './programme'
import { createVenue } from './venue'

/** The simulated audio interface, and a simulated microphone with a converter and a clock of its own. */
export const simulatedInterface = 'simulated-interface'
export const simulatedUsb = 'simulated-usb-microphone'
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
  'Output 1: console, loopback',
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
const loopback = 3
const consoleLeft = 4
const usb = 8
const generator = 9

/** The hall with what is plugged into it; `microphones` are the places of `microphoneTaps`, null where none stands. */
export function createInterface(plan: SitePlan, sources: Source[], microphones: readonly (Place | null)[]) {
  const venue = createVenue(plan, sources, ...microphones)
  const programme = createProgramme(venue.sampleRate)
  const heard = microphoneTaps.map(() => new Float32Array(blockSize))
  const music = [new Float32Array(blockSize), new Float32Array(blockSize)] as const
  const played = new Float32Array(blockSize)
  const toRig = new Float32Array(blockSize)
  const gains = simulatedTaps.map(() => 1)
  let output = 0

  // the second device's samples come faster than the computer takes them: what waits grows, and with it the delay
  const waiting = new Float32Array(2 ** 17)
  const mask = waiting.length - 1
  const interpolator = createInterpolator()
  let arrived = 0
  let taken = 0
  const throughOtherClock = (sound: Float32Array, out: Float32Array) => {
    for (let n = 0; n < blockSize; n++) waiting[(arrived + n) & mask] = sound[n]!
    arrived += blockSize
    // an hour and more: it starts over
    if (arrived - taken > waiting.length - 2 * blockSize) taken = arrived - blockSize - interpolator.ahead
    for (let n = 0; n < blockSize; n++) {
      out[n] = taken < interpolator.ahead ? 0 : interpolator.read(waiting, mask, taken - interpolator.ahead)
      taken += 1 - usbClock * 1e-6
    }
  }

  return {
    ...venue,
    get settling() {
      return venue.settling
    },
    get temperature() {
      return venue.temperature
    },
    programme: (on: boolean) => programme.play(on),
    /** The interface's output (from 0) that Kovrin's own signal leaves by. */
    output(channel: number) {
      output = channel
    },
    gain(channel: number, level: Decibels) {
      gains[channel] = ratioOf(level)
    },
    /** The next block of every channel, in the order of `simulatedTaps`. */
    process(channels: readonly Float32Array[]) {
      programme.fill(...music)
      venue.generator.fill(played)
      channels[generator]!.set(played)
      const back = channels[loopback]!
      if (output === 0) back.set(played)
      else back.fill(0)
      for (let n = 0; n < blockSize; n++) toRig[n] = back[n]! + music[0][n]!
      for (const side of [0, 1] as const) {
        const console = channels[consoleLeft + side]!
        for (let n = 0; n < blockSize; n++) console[n] = back[n]! + music[side][n]!
      }
      venue.hear(toRig, ...heard)
      for (let m = 0; m < 3; m++) channels[m]!.set(heard[m]!)
      throughOtherClock(heard[3]!, channels[usb]!)
      for (const c of [6, 7]) channels[c]!.fill(0)
      for (let c = 0; c < generator; c++) {
        const gain = gains[c]!
        const channel = channels[c]!
        if (gain !== 1)
          for (let n = 0; n < blockSize; n++) channel[n] = Math.max(-1, Math.min(1, channel[n]! * gain))
      }
    },
  }
}

export type Interface = ReturnType<typeof createInterface>
