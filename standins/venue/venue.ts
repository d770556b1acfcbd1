import type { Place } from '../../core/acoustics'
import { createGenerator, pinkNoise, realFft, type Curve } from '../../core/dsp'
import { pathResponse, type Rig, type SitePlan, type Source } from '../../core/rig'
import { ratioOf } from '../../core/units'
import { responseLength, roomSpectrum, venueBins, venueRate } from './acoustics'
import { blockSize, createConvolver } from './convolver'

/** Noise of the empty hall and of the microphone's own electronics, dBFS RMS. */
const background = -74

/**
 * The simulated audio interface in the simulated hall: one playback channel that feeds the rig, one microphone that can be
 * moved. What is heard follows the settings that the devices hold.
 */
export function createVenue(plan: SitePlan, sources: Source[], microphone: Place) {
  const generator = createGenerator(venueRate, 20)
  const hiss = pinkNoise(venueRate, 4711), hissLevel = ratioOf(background)
  const convolver = createConvolver(responseLength)
  const fft = realFft(responseLength)
  const rooms = new Map<string, Curve>()
  let rig: Rig | null = null
  let place = microphone

  const room = (source: Source, number: number) => {
    const element = source.elements[number]!, key = `${source.id}/${number}/${place.x}/${place.y}/${place.z}`
    let curve = rooms.get(key)
    if (!curve) {
      if (rooms.size > 40) rooms.clear()
      rooms.set(key, curve = roomSpectrum(plan, source.id, number, element, place))
    }
    return curve
  }

  /** The whole response from playback to microphone, all cabinets that are fed summed. */
  const rebuild = () => {
    if (!rig) return
    const re = new Float64Array(venueBins.length), im = new Float64Array(venueBins.length)
    const paths = new Map<string, Curve>()
    for (const source of sources) {
      source.elements.forEach((element, number) => {
        const key = `${element.output.device}:${element.output.channel}`
        let path = paths.get(key)
        if (!path) paths.set(key, path = pathResponse(rig!, plan.feed, element.output, venueBins))
        if (path.re[1] === 0 && path.re[2000] === 0 && path.im[2000] === 0) return
        const acoustic = room(source, number)
        for (let k = 0; k < re.length; k++) {
          re[k]! += path.re[k]! * acoustic.re[k]! - path.im[k]! * acoustic.im[k]!
          im[k]! += path.re[k]! * acoustic.im[k]! + path.im[k]! * acoustic.re[k]!
        }
      })
    }
    const response = new Float64Array(responseLength)
    fft.inverse(re, im, response)
    convolver.respond(response)
  }

  const noise = new Float32Array(blockSize)
  return {
    generator,
    sampleRate: venueRate,
    /** What the devices hold now. */
    holds(now: Rig) {
      rig = now
      rebuild()
    },
    moveMicrophone(to: Place) {
      place = to
      rebuild()
    },
    /** The next block (`blockSize` samples): what is played back, and what the microphone hears. */
    process(playback: Float32Array, heard: Float32Array) {
      generator.fill(playback)
      convolver.process(playback, heard)
      hiss(noise)
      for (let n = 0; n < blockSize; n++) heard[n] = Math.max(-1, Math.min(1, heard[n]! + noise[n]! * hissLevel))
    },
  }
}

export type Venue = ReturnType<typeof createVenue>
