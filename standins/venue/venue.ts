import type { Place } from '../../core/acoustics'
import type { Plan, Sheet, Source } from '../../core/documents'
import { createGenerator, realFft, silence } from '../../core/dsp'
import type { FastFft } from '../../core/dsp/fastFft'
import {
  drivesOf,
  endpointKey,
  pathResponse,
  routeSounds,
  routeTo,
  testFeed,
  type Endpoint,
  type Rig,
  type Wiring,
} from '../../core/rig'
import type { Faults } from '../ropewalk/site'
import { responseLength, roomSpectrum, venueBins, venueRate, type Radiating } from './acoustics'
import { usualOrder, type BackgroundId } from './offers'
import { createBackground } from './background'
import { blockSize, createConvolver } from './convolver'
import { createLimiting } from './limiting'
import { createDistortion } from './loudspeakers'

/**
 * Length of the response of the electronics in samples: 0.68 s, for delays up to half a second and what filters
 * ring.
 */
const pathLength = 2 ** 15
const pathBins = Float64Array.from({ length: pathLength / 2 + 1 }, (_, k) => (k * venueRate) / pathLength)

/** An evening lasts ten minutes here; the air is stepped every four seconds. */
const eveningLasts = 600
const driftEvery = Math.round((4 * venueRate) / blockSize)

/** What the hall is made of: as drawn, and what is wrong in it that stands in no document. */
export interface Hall {
  plan: Plan
  sources: readonly Source[]
  sheets: readonly Sheet[]
  faults: Faults
}

type Convolver = ReturnType<typeof createConvolver>
/**
 * One output that drives loudspeakers: its electronics, which follow the devices, and the hall behind it, which
 * follows the microphones.
 */
interface Way {
  output: Endpoint
  radiating: Radiating[]
  /** The electronics from each feed that reaches it. */
  paths: Map<string, { convolver: Convolver, fed: boolean }>
  limiting: ReturnType<typeof createLimiting>
  distort: ReturnType<typeof createDistortion>
  /** One a microphone, from when it first stands somewhere. */
  rooms: (Convolver | undefined)[]
  /** True while each of `rooms` is that of the plan and its microphone as they are. */
  hallKnown: boolean[]
  /** Blocks for which the hall still sounds after the last feed has gone. */
  ringing: number
}
const isFed = (way: Way) => [...way.paths.values()].some(p => p.fed)

/** The cables as they really are: pairs may be swapped behind the plan's back. */
function asPlugged(wiring: Rig['wiring'], { swapped }: Faults): Rig['wiring'] {
  const cables = { ...wiring.cables }
  for (const [a, b] of swapped) {
    const [atA, atB] = [cables[a], cables[b]]
    if (atA && atB) Object.assign(cables, { [a]: atB, [b]: atA })
  }
  return { ...wiring, cables }
}

/** Every band of every cabinet by the output that drives it. */
function radiatingBy(
  { sources, sheets, faults }: Hall,
  wiring: Rig['wiring'],
): Map<string, { output: Endpoint, list: Radiating[] }> {
  const found = new Map<string, { output: Endpoint, list: Radiating[] }>()
  for (const source of sources) {
    for (const { element: number, band: bandId, output } of drivesOf(wiring, source.id)) {
      const element = source.elements[number]
      const sheet = sheets.find(s => s.id === element?.sheet)
      const band = sheet?.bands.find(b => b.id === bandId)
      if (!element || !sheet || !band) continue
      const key = endpointKey(output)
      const inverted = faults.inverted.some(([id, n]) => id === source.id && n === number)
      const entry = found.get(key) ?? { output, list: [] }
      entry.list.push({ source: source.id, number, element, sheet, band, inverted })
      found.set(key, entry)
    }
  }
  return found
}

/**
 * The simulated hall: feeds go into the rig, microphones can be moved; null where none stands, which hears
 * nothing. What is heard
 * follows the settings that the devices hold.
 */
export function createVenue(
  fast: FastFft,
  firstHall: Hall,
  firstRig: Rig & { wiring: Wiring },
  ...microphones: (Place | null)[]
) {
  const generator = createGenerator(venueRate, 20)
  const background = createBackground(venueRate)
  const pathFft = realFft(pathLength)
  const roomFft = realFft(responseLength)
  const pathResult = new Float64Array(pathLength)
  const roomResult = new Float64Array(responseLength)
  let hall = firstHall
  let rig = firstRig
  /** The plan with the air of the moment. */
  let plan = hall.plan
  const places = [...microphones]
  let evening = false
  let blocks = 0
  let order = usualOrder
  const ways = new Map<string, Way>()
  /** Feeds that are played into: only their electronics are computed. */
  const active = new Set<string>([testFeed])

  /** Sorts bands to the outputs that drive them; an output that drove one before keeps its way, and so its sound. */
  const wire = () => {
    const radiating = radiatingBy(hall, rig.wiring)
    for (const [key, way] of ways) way.radiating = radiating.get(key)?.list ?? []
    for (const [key, { output, list }] of radiating) {
      if (ways.has(key)) continue
      ways.set(key, {
        output,
        radiating: list,
        paths: new Map(),
        limiting: createLimiting(venueRate, pathLength, fast),
        distort: createDistortion(venueRate),
        rooms: places.map(() => undefined),
        hallKnown: places.map(p => !p),
        ringing: 0,
      })
    }
  }
  wire()

  const setRoom = (way: Way, microphone: number) => {
    const place = places[microphone]
    if (!place) return
    const sum = silence(venueBins)
    for (const radiating of way.radiating) {
      const one = roomSpectrum(plan, radiating, place, order)
      for (let k = 0; k < one.re.length; k++) {
        sum.re[k]! += one.re[k]!
        sum.im[k]! += one.im[k]!
      }
    }
    roomFft.inverse(sum.re, sum.im, roomResult)
    const room = (way.rooms[microphone] ??= createConvolver(responseLength, fast))
    room.respond(roomResult)
    way.hallKnown[microphone] = true
  }
  /** Halls that must be computed anew. One a block, so that the sound of the others goes on meanwhile. */
  const due = new Map<string, () => void>()
  const mustSettle = (way: Way) => {
    if (!way.radiating.length || !(isFed(way) || way.ringing > 0)) return
    way.hallKnown.forEach((known, m) => {
      if (!known) due.set(`${endpointKey(way.output)}/${m}`, () => setRoom(way, m))
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

  const fedBlock = new Float32Array(blockSize)
  const driven = new Float32Array(blockSize)
  const noise = new Float32Array(blockSize)
  const arrived = new Float32Array(blockSize)

  /** The electronics from one feed to one way, as they are now. */
  const setPath = (way: Way, id: string, from: Endpoint, plugged: Rig) => {
    const route = way.radiating.length ? routeTo(plugged, from, way.output) : null
    const sounds = route !== null && routeSounds(plugged, route)
    const path = way.paths.get(id)
    if (!sounds && !path?.fed) return
    const response = sounds ? pathResponse(plugged, from, way.output, pathBins) : silence(pathBins)
    pathFft.inverse(response.re, response.im, pathResult)
    const next = path ?? { convolver: createConvolver(pathLength, fast), fed: false }
    next.convolver.respond(pathResult)
    next.fed = sounds
    way.paths.set(id, next)
    way.ringing = (pathLength + responseLength) / blockSize
  }
  /** What the devices hold now. */
  const holds = (next: Rig & { wiring: Wiring }) => {
    rig = next
    const plugged = { ...rig, wiring: asPlugged(rig.wiring, hall.faults) }
    const feeds = [...active].flatMap((id) => {
      const feed = rig.wiring.feeds[id]
      return feed ? [[id, feed.from] as const] : []
    })
    for (const way of ways.values()) {
      for (const [id, from] of feeds) setPath(way, id, from, plugged)
      way.limiting.follow(plugged, way.radiating.length ? feeds : [], way.output, (from, to) => {
        const { re, im } = pathResponse(plugged, from, to, pathBins)
        pathFft.inverse(re, im, pathResult)
        return pathResult
      })
      mustSettle(way)
    }
  }

  /** One step of the evening: the air on its way from now to show time, every way heard through it. */
  const drift = () => {
    const part = Math.min(1, (blocks * blockSize) / venueRate / eveningLasts)
    const { air, airLater } = hall.plan
    const between = (key: 'temperature' | 'humidity' | 'pressure') => air[key] + (airLater[key] - air[key]) * part
    const now = {
      temperature: between('temperature'),
      humidity: between('humidity'),
      pressure: between('pressure'),
    }
    plan = { ...hall.plan, air: now }
    for (const way of ways.values()) hallChanged(way)
    if (part === 1) evening = false
  }

  /** What a way's loudspeakers are driven with: the sum of what reaches it from every feed. */
  const drive = (way: Way, feeds: Readonly<Record<string, Float32Array>>) => {
    driven.fill(0)
    for (const [id, { convolver }] of way.paths) {
      const feed = feeds[id]
      if (!feed) continue
      convolver.process(feed, fedBlock)
      for (let n = 0; n < blockSize; n++) driven[n]! += fedBlock[n]!
    }
    way.limiting.apply(driven, feeds)
    way.distort(driven)
  }

  const hear = (feeds: Readonly<Record<string, Float32Array>>, heard: Float32Array[]) => {
    noise.fill(0)
    background.addTo(noise)
    heard.forEach((h, m) => {
      if (places[m]) h.set(noise)
      else h.fill(0)
    })
    if (evening && ++blocks % driftEvery === 0) drift()
    settleOne()
    for (const way of ways.values()) {
      const fed = isFed(way)
      if (!fed && way.ringing <= 0) continue
      if (!fed) way.ringing--
      drive(way, feeds)
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
  holds(firstRig)

  return {
    generator,
    background: (id: BackgroundId) => background.choose(id),
    /** Lets the air go from now to show time within ten minutes, or puts it back to now. */
    evening(on: boolean) {
      evening = on
      blocks = 0
      plan = hall.plan
      if (!on) for (const way of ways.values()) hallChanged(way)
    },
    /** Follows wall reflections one by one up to this order. */
    reflections(to: number) {
      if (order === to) return
      order = to
      for (const way of ways.values()) hallChanged(way)
    },
    get air() {
      return plan.air
    },
    sampleRate: venueRate,
    holds,
    /** Something is played into these feeds from now on. */
    play(ids: readonly string[]) {
      if (ids.every(id => active.has(id))) return
      for (const id of ids) active.add(id)
      holds(rig)
    },
    /** The hall was drawn anew: its room, its air, its loudspeakers, what drives them, the microphones' places. */
    replan(next: Hall, nextRig: Rig & { wiring: Wiring }, to: readonly (Place | null)[]) {
      hall = next
      plan = hall.plan
      rig = nextRig
      evening = false
      to.forEach((p, m) => {
        if (m < places.length) places[m] = p && { ...p }
      })
      wire()
      for (const way of ways.values()) hallChanged(way)
      holds(nextRig)
    },
    moveMicrophones(to: readonly (Place | null)[]) {
      to.forEach((p, m) => {
        const was = places[m]
        const same = p === was || (p && was && was.x === p.x && was.y === p.y && was.z === p.z)
        if (m >= places.length || same) return
        places[m] = p && { ...p }
        for (const way of ways.values()) hallChanged(way, m)
      })
    },
    /** dB that every limiter that is on takes away now, by its device and strip. */
    limiting(): Record<string, number> {
      const told: Record<string, number> = {}
      for (const way of ways.values()) way.limiting.tell(told)
      return told
    },
    /** True while part of the hall is still computed: what is heard is not yet all of the newest plan. */
    get settling() {
      return due.size > 0
    },
    /**
     * The next block (`blockSize` samples): what the generator plays into the test feed, and what each
     * microphone hears of it.
     */
    process(playback: Float32Array, ...heard: Float32Array[]) {
      generator.fill(playback)
      hear({ [testFeed]: playback }, heard)
    },
    /** The next block of what each microphone hears while each of `feeds` goes into the rig. */
    hear,
  }
}
