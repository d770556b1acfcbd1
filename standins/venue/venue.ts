import type { Place } from '../../core/acoustics'
import { createGenerator, pinkNoise, realFft, type Curve } from '../../core/dsp'
import { pathResponse, type Endpoint, type Rig, type SitePlan, type Source } from '../../core/rig'
import { ratioOf } from '../../core/units'
import { responseLength, roomSpectrum, venueBins, venueRate } from './acoustics'
import { blockSize, createConvolver } from './convolver'

/** Noise of the empty hall and of the microphone's own electronics, dBFS RMS. */
const background = -74

/** Length of the response of the electronics in samples: 0.68 s, for delays up to half a second and what filters ring. */
const pathLength = 2 ** 15
const pathBins = Float64Array.from({ length: pathLength / 2 + 1 }, (_, k) => k * venueRate / pathLength)

/** One output that drives cabinets: its electronics, which follow the devices, and the hall behind it, which follows the microphone. */
interface Way {
  output: Endpoint
  cabinets: { source: Source, number: number }[]
  path: ReturnType<typeof createConvolver>
  room: ReturnType<typeof createConvolver>
  /** Where the microphone stood when `room` was computed; null before it was needed. */
  heardFrom: Place | null
  fed: boolean
  /** Blocks for which the hall still sounds after the feed has gone. */
  ringing: number
}

/**
 * The simulated audio interface in the simulated hall: one playback channel that feeds the rig, one microphone that can be
 * moved. What is heard follows the settings that the devices hold.
 */
export function createVenue(firstPlan: SitePlan, firstSources: Source[], microphone: Place) {
  const generator = createGenerator(venueRate, 20)
  const hiss = pinkNoise(venueRate, 4711), hissLevel = ratioOf(background)
  const pathFft = realFft(pathLength), roomFft = realFft(responseLength)
  const pathResult = new Float64Array(pathLength), roomResult = new Float64Array(responseLength)
  let plan = firstPlan, place = microphone
  const ways = new Map<string, Way>()

  /** Sorts cabinets to the outputs that drive them; an output that drove one before keeps its way, and so its sound. */
  const wire = (sources: Source[]) => {
    for (const way of ways.values()) way.cabinets = []
    for (const source of sources) {
      source.elements.forEach((element, number) => {
        const key = `${element.output.device}:${element.output.channel}`
        const way = ways.get(key) ?? { output: element.output, cabinets: [], path: createConvolver(pathLength), room: createConvolver(responseLength), heardFrom: null, fed: false, ringing: 0 }
        way.cabinets.push({ source, number })
        ways.set(key, way)
      })
    }
  }
  wire(firstSources)

  const setRoom = (way: Way) => {
    const sum: Curve = { frequencies: venueBins, re: new Float64Array(venueBins.length), im: new Float64Array(venueBins.length), coherence: null }
    for (const { source, number } of way.cabinets) {
      const one = roomSpectrum(plan, source.id, number, source.elements[number]!, place)
      for (let k = 0; k < one.re.length; k++) {
        sum.re[k]! += one.re[k]!
        sum.im[k]! += one.im[k]!
      }
    }
    roomFft.inverse(sum.re, sum.im, roomResult)
    way.room.respond(roomResult)
    way.heardFrom = place
  }

  const noise = new Float32Array(blockSize), driven = new Float32Array(blockSize), arrived = new Float32Array(blockSize)
  /** What the devices hold now. */
  const holds = (rig: Rig) => {
    for (const way of ways.values()) {
      const response = pathResponse(rig, plan.feed, way.output, pathBins)
      const fed = way.cabinets.length > 0 && response.re.some(v => v !== 0)
      if (!fed && !way.fed) continue
      if (fed && way.heardFrom !== place) setRoom(way)
      if (!fed) for (const part of [response.re, response.im]) part.fill(0)
      pathFft.inverse(response.re, response.im, pathResult)
      way.path.respond(pathResult)
      way.fed = fed
      way.ringing = (pathLength + responseLength) / blockSize
    }
  }

  return {
    generator,
    sampleRate: venueRate,
    holds,
    /** The hall was drawn anew: its room, its air, its loudspeakers, the microphone's place. */
    replan(nextPlan: SitePlan, sources: Source[], to: Place, rig: Rig) {
      plan = nextPlan
      place = { ...to }
      wire(sources)
      for (const way of ways.values()) {
        way.heardFrom = null
        if (way.ringing > 0 && way.cabinets.length) setRoom(way)
      }
      holds(rig)
    },
    moveMicrophone(to: Place) {
      place = to
      for (const way of ways.values()) if (way.ringing > 0) setRoom(way)
    },
    /** The next block (`blockSize` samples): what is played back, and what the microphone hears. */
    process(playback: Float32Array, heard: Float32Array) {
      generator.fill(playback)
      hiss(noise)
      for (let n = 0; n < blockSize; n++) heard[n] = noise[n]! * hissLevel
      for (const way of ways.values()) {
        if (!way.fed && way.ringing <= 0) continue
        if (!way.fed) way.ringing--
        way.path.process(playback, driven)
        way.room.process(driven, arrived)
        for (let n = 0; n < blockSize; n++) heard[n]! += arrived[n]!
      }
      for (let n = 0; n < blockSize; n++) heard[n] = Math.max(-1, Math.min(1, heard[n]!))
    },
  }
}

export type Venue = ReturnType<typeof createVenue>
