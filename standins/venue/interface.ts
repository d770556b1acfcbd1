import type { Place } from '../../core/acoustics'
import { createInterpolator, whiteNoise } from '../../core/dsp'
import type { FastFft } from '../../core/dsp/fastFft'
import { testFeed, type Rig, type Wiring } from '../../core/rig'
import { ratioOf, type Decibels } from '../../core/units'
import { blockSize } from './convolver'
import {
  consoleFeeds, consoleLeft, generator, loopback, microphoneTaps, simulatedTaps, usb, usbClock,
} from './offers'
import { createProgramme } from './programme'
import { createVenue, type Hall } from './venue'

/** Noise of every converter, connected or not: no recording is without it. */
const converterNoise: Decibels = -106

const hissLevel = ratioOf(converterNoise)

/** The hall with what is plugged into it; `microphones` are the places of `microphoneTaps`, null where none stands. */
export function createInterface(
  fast: FastFft,
  hall: Hall,
  rig: Rig & { wiring: Wiring },
  microphones: readonly (Place | null)[],
) {
  const venue = createVenue(fast, hall, rig, ...microphones)
  const programme = createProgramme(venue.sampleRate)
  const heard = microphoneTaps.map(() => new Float32Array(blockSize))
  const left = new Float32Array(blockSize)
  const right = new Float32Array(blockSize)
  const mono = new Float32Array(blockSize)
  const played = new Float32Array(blockSize)
  const hiss = simulatedTaps.map((_, n) => whiteNoise(900 + n))
  const hissed = new Float32Array(blockSize)
  const gains = simulatedTaps.map(() => 1)
  let output = 0
  const feeds: Record<string, Float32Array> = { [testFeed]: played, left, right, sub: mono, fill: mono }

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

  /** What a converter makes of its channel: its preamplifier's gain, its own noise, and no more than full scale. */
  const convert = (channel: Float32Array, c: number) => {
    hiss[c]!(hissed)
    const gain = gains[c]!
    for (let n = 0; n < blockSize; n++) {
      channel[n] = Math.max(-1, Math.min(1, channel[n]! * gain + hissed[n]! * hissLevel))
    }
  }

  return {
    ...venue,
    get settling() { return venue.settling },
    get air() { return venue.air },
    programme(on: boolean) {
      programme.play(on)
      if (on) venue.play(consoleFeeds)
    },
    /** The interface's output (from 0) that Kovrin's own signal leaves by. */
    output(channel: number) { output = channel },
    gain(channel: number, level: Decibels) { gains[channel] = ratioOf(level) },
    /** The next block of every channel, in the order of `simulatedTaps`. */
    process(channels: readonly Float32Array[]) {
      programme.fill(left, right)
      for (let n = 0; n < blockSize; n++) mono[n] = (left[n]! + right[n]!) / 2
      venue.generator.fill(played)
      channels[generator]!.set(played)
      if (output !== 0) played.fill(0)
      channels[loopback]!.set(played)
      channels[consoleLeft]!.set(left)
      channels[consoleLeft + 1]!.set(right)
      venue.hear(feeds, heard)
      for (let m = 0; m < 3; m++) channels[m]!.set(heard[m]!)
      throughOtherClock(heard[3]!, channels[usb]!)
      for (const c of [6, 7]) channels[c]!.fill(0)
      for (let c = 0; c < generator; c++) convert(channels[c]!, c)
    },
  }
}

export type Interface = ReturnType<typeof createInterface>
