import type { Place } from '../../core/acoustics'
import { createGenerator, realFft, type Curve } from '../../core/dsp'
import { pathResponse, type Endpoint, type Rig, type SitePlan, type Source } from '../../core/rig'
import { responseLength, roomSpectrum, usualOrder, venueBins, venueRate } from './acoustics'
import { createBackground, type BackgroundId } from './background'
import { blockSize, createConvolver } from './convolver'

/**
 * Length of the response of the electronics in samples: 0.68 s, for delays up to half a second and what filters
 * ring.
 */
const pathLength = 2 ** 15
const pathBins = Float64Array.from({ length: pathLength / 2 + 1 }, (_, k) => (k * venueRate) / pathLength)

/** An evening lasts ten minutes here; the air is stepped every four seconds. */
const eveningLasts = 600
const driftEvery = Math.round((4 * venueRate) / blockSize)

/**
 * One output that drives cabinets: its electronics, which follow the devices, and the hall behind it, which
 * follows the microphone.
 */
interface Way {
  output: Endpoint
  cabinets: { source: Source, number: number }[]
  path: ReturnType<typeof createConvolver>
  /** One a microphone, from when it first stands somewhere. */
  rooms: (ReturnType<typeof createConvolver> | undefined)[]
  /** True while each of `rooms` is that of the plan and its microphone as they are. */
  hallKnown: boolean[]
  fed: boolean
  /** Blocks for which the hall still sounds after the feed has gone. */
  ringing: number
}

/**
 * The simulated hall: one signal feeds the rig, microphones can be moved; null where none stands, which hears
 * nothing. What is
 * heard follows the settings that the devices hold.
 */
export function createVenue(firstPlan: SitePlan, firstSources: Source[], ...microphones: (Place | null)[]) {
  const generator = createGenerator(venueRate, 20)
  const background = createBackground(venueRate)
  const pathFft = realFft(pathLength)
  const roomFft = realFft(responseLength)
  const pathResult = new Float64Array(pathLength)
  const roomResult = new Float64Array(responseLength)
  /** The plan as drawn; `plan` is the same with the air of the moment. */
  let basis = firstPlan
  let plan = firstPlan
  const places = [...microphones]
  let evening = false
  let blocks = 0
  let order = usualOrder
  const ways = new Map<string, Way>()

  /** Sorts cabinets to the outputs that drive them; an output that drove one before keeps its way, and so its sound. */
  const wire = (sources: Source[]) => {
    for (const way of ways.values()) way.cabinets = []
    for (const source of sources) {
      source.elements.forEach((element, number) => {
        const key = `${element.output.device}:${element.output.channel}`
        const way = ways.get(key) ?? {
          output: element.output,
          cabinets: [],
          path: createConvolver(pathLength),
          rooms: places.map(() => undefined),
          hallKnown: places.map(p => !p),
          fed: false,
          ringing: 0,
        }
        way.cabinets.push({ source, number })
        ways.set(key, way)
      })
    }
  }
  wire(firstSources)

  const setRoom = (way: Way, microphone: number) => {
    const place = places[microphone]
    if (!place) return
    const sum: Curve = {
      frequencies: venueBins,
      re: new Float64Array(venueBins.length),
      im: new Float64Array(venueBins.length),
      coherence: null,
    }
    for (const { source, number } of way.cabinets) {
      const one = roomSpectrum(plan, source.id, number, source.elements[number]!, place, order)
      for (let k = 0; k < one.re.length; k++) {
        sum.re[k]! += one.re[k]!
        sum.im[k]! += one.im[k]!
      }
    }
    roomFft.inverse(sum.re, sum.im, roomResult)
    const room = (way.rooms[microphone] ??= createConvolver(responseLength))
    room.respond(roomResult)
    way.hallKnown[microphone] = true
  }
  /** Halls that must be computed anew. One a block, so that the sound of the others goes on meanwhile. */
  const due = new Map<string, () => void>()
  const mustSettle = (way: Way) => {
    if (!way.cabinets.length || !(way.fed || way.ringing > 0)) return
    way.hallKnown.forEach((known, m) => {
      if (!known) due.set(`${way.output.device}:${way.output.channel}/${m}`, () => setRoom(way, m))
    })
  }
  /** The hall behind a way is another one, at all microphones or at one. */
  const hallChanged = (way: Way, microphone?: number) => {
    way.hallKnown = way.hallKnown.map(
      (known, m) => !places[m] || (known && microphone !== undefined && m !== microphone),
    )
    mustSettle(way)
  }
  const settleOne = () => {
    for (const [key, job] of due) {
      due.delete(key)
      return job()
    }
  }

  const driven = new Float32Array(blockSize)
  const noise = new Float32Array(blockSize)
  const arrived = new Float32Array(blockSize)
  /** What the devices hold now. */
  const holds = (rig: Rig) => {
    for (const way of ways.values()) {
      const response = pathResponse(rig, plan.feed, way.output, pathBins)
      const fed = way.cabinets.length > 0 && response.re.some(v => v !== 0)
      if (!fed && !way.fed) continue
      if (!fed) for (const part of [response.re, response.im]) part.fill(0)
      pathFft.inverse(response.re, response.im, pathResult)
      way.path.respond(pathResult)
      way.fed = fed
      way.ringing = (pathLength + responseLength) / blockSize
      mustSettle(way)
    }
  }

  /** One step of the evening: the air on its way from now to show time, every way heard through it. */
  const drift = () => {
    const part = Math.min(1, (blocks * blockSize) / venueRate / eveningLasts)
    const { air, airLater } = basis
    const between = (key: 'temperature' | 'humidity' | 'pressure') => air[key] + (airLater[key] - air[key]) * part
    plan = {
      ...basis,
      air: { temperature: between('temperature'), humidity: between('humidity'), pressure: between('pressure') },
    }
    for (const way of ways.values()) hallChanged(way)
    if (part === 1) evening = false
  }

  const hear = (fed: Float32Array, heard: Float32Array[]) => {
    noise.fill(0)
    background.addTo(noise)
    heard.forEach((h, m) => {
      if (places[m]) h.set(noise)
      else h.fill(0)
    })
    if (evening && ++blocks % driftEvery === 0) drift()
    settleOne()
    for (const way of ways.values()) {
      if (!way.fed && way.ringing <= 0) continue
      if (!way.fed) way.ringing--
      way.path.process(fed, driven)
      for (let m = 0; m < heard.length; m++) {
        const room = way.rooms[m]
        if (!places[m] || !room) continue
        room.process(driven, arrived)
        const h = heard[m]!
        for (let n = 0; n < blockSize; n++) h[n]! += arrived[n]!
      }
    }
    for (const h of heard) for (let n = 0; n < blockSize; n++) h[n] = Math.max(-1, Math.min(1, h[n]!))
  }

  return {
    generator,
    background: (id: BackgroundId) => background.choose(id),
    /** Lets the air go from now to show time within ten minutes, or puts it back to now. */
    evening(on: boolean) {
      evening = on
      blocks = 0
      plan = basis
      if (!on) for (const way of ways.values()) hallChanged(way)
    },
    /** Follows wall reflections one by one up to this order. */
    reflections(to: number) {
      if (order === to) return
      order = to
      for (const way of ways.values()) hallChanged(way)
    },
    get temperature() {
      return plan.air.temperature
    },
    sampleRate: venueRate,
    holds,
    /** The hall was drawn anew: its room, its air, its loudspeakers, the microphone's place. */
    replan(nextPlan: SitePlan, sources: Source[], to: readonly (Place | null)[], rig: Rig) {
      basis = plan = nextPlan
      evening = false
      to.forEach((p, m) => {
        if (m < places.length) places[m] = p && { ...p }
      })
      wire(sources)
      for (const way of ways.values()) hallChanged(way)
      holds(rig)
    },
    moveMicrophones(to: readonly (Place | null)[]) {
      to.forEach((p, m) => {
        const was = places[m]
        if (m >= places.length || p === was || (p && was && was.x === p.x && was.y === p.y && was.z === p.z)) return
        places[m] = p && { ...p }
        for (const way of ways.values()) hallChanged(way, m)
      })
    },
    /** True while part of the hall is still computed: what is heard is not yet all of the newest plan. */
    get settling() {
      return due.size > 0
    },
    /** The next block (`blockSize` samples): what the generator plays, and what each microphone hears of it. */
    process(playback: Float32Array, ...heard: Float32Array[]) {
      generator.fill(playback)
      hear(playback, heard)
    },
    /** The next block of what each microphone hears while `fed` goes into the rig. */
    hear: (fed: Float32Array, ...heard: Float32Array[]) => hear(fed, heard),
  }
}
