import { loadFastFft } from '../dsp/fastFft'
import { classical, filterThrough, pinkNoise, seededRandom, standardGrid, type Section } from '../dsp'
import {
  createLive,
  createRing,
  flatOften,
  followFlat,
  fractionalOctaves,
  isFlattened,
  levelOf,
  measuredCurve,
  ringWriter,
  roomTold,
} from '../measure'
import { findingsOf, type Observed } from './index'

// For tests: seeded scenes of made systems of known truth through the whole chain, from sound to sentence.
const rate = 48_000
/** Enough for every block twice; a narrow band's arrival is told anew in between. */
const usual = 9
const lasting = { narrow: 17, long: 12 }
const fast = await loadFastFft()
const bands = fractionalOctaves(24, 16, 20_000)
const gaussOf = (seed: number) => {
  const random = seededRandom(seed)
  return () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random())
}
export interface Scene {
  seed: number
  /** Reverberation in s and direct over reverberant in dB. */ time: number
  over: number
  source?: Section[]
  /** Noise over the signal at the microphone in dB. */ noise?: number
  /** A mode that rings: frequency, decay in s, level. */ mode?: [f: number, time: number, gain: number]
  /** A second arrival: ms and ratio. */ twice?: [ms: number, gain: number]
  /** The source plays lows only, or the room is told by its tail: it takes longer. */ lasts?: keyof typeof lasting
  /** What is wrong with how it is wired or set. */ fault?: 'swapped' | 'turned' | 'same' | 'clipped' | undefined
}

/** Response of a room as samples: direct sound, diffuse decay, and what else the scene has. */
function responseOf({ seed, time, over, mode, twice }: Scene): Float64Array {
  const gauss = gaussOf(seed)
  const length = Math.round(1.2 * Math.max(time, mode?.[1] ?? 0) * rate)
  const h = new Float64Array(length)
  const tail = new Float64Array(length)
  let energy = 0
  for (let n = 260; n < length; n++) {
    tail[n] = gauss() * 10 ** ((-3 * n) / rate / time)
    energy += tail[n]! ** 2
  }
  const gain = Math.sqrt(10 ** (-over / 10) / energy)
  for (let n = 0; n < length; n++) h[n] = gain * tail[n]!
  h[0]! += 1
  if (twice) h[Math.round(twice[0] * 48)]! += twice[1]
  if (mode) {
    const [f, decay, level] = mode
    for (let n = 0; n < length; n++)
      h[n]! += level * Math.sin((2 * Math.PI * f * n) / rate) * 10 ** ((-3 * n) / rate / decay)
  }
  return h
}

/** What is heard of a sound in a room of this response, as long as the sound. */
function convolve(x: Float32Array, h: Float64Array): Float32Array {
  const size = 2 ** Math.ceil(Math.log2(x.length + h.length))
  const fft = fast.block(size)
  const padded = (signal: ArrayLike<number>) => {
    const all = new Float32Array(size)
    all.set(signal)
    return all
  }
  const a = fft.forward(padded(x)).slice()
  const b = fft.forward(padded(h)).slice()
  for (let k = 0; k < b.length; k += 2) {
    const re = a[k]! * b[k]! - a[k + 1]! * b[k + 1]!
    b[k + 1] = a[k]! * b[k + 1]! + a[k + 1]! * b[k]!
    b[k] = re
  }
  return new Float32Array(fft.inverse(b).slice(0, x.length))
}

/** What reaches the two inputs: the sound as it should be, or with a fault. */
function wired(fault: Scene['fault'], reference: Float32Array, heard: Float32Array) {
  if (fault === 'swapped') return { ears: heard, microphone: reference }
  if (fault === 'same') return { ears: reference, microphone: reference.map(v => 0.5 * v) }
  if (fault === 'turned') return { ears: reference, microphone: heard.map(v => -v) }
  if (fault !== 'clipped') return { ears: reference, microphone: heard }
  const rms = Math.sqrt(heard.reduce((sum, v) => sum + v * v, 0) / heard.length)
  return { ears: reference, microphone: heard.map(v => Math.max(-1.5 * rms, Math.min(1.5 * rms, v))) }
}

/** What the page keeps of flat tops, looked for ten times a second in the newest samples. */
function isOftenFlat(signal: Float32Array): boolean {
  let often = 0
  for (let at = 4096; at <= signal.length; at += rate / 10)
    often = followFlat(often, isFlattened(signal.subarray(at - 4096, at)))
  return often >= flatOften
}

const pinks = new Map<string, Float32Array>()
/** Pink noise by its seed: scenes of other tests have the same. */
function pinkOf(seed: number, length: number): Float32Array {
  const key = `${seed} ${length}`
  const made = pinks.get(key) ?? new Float32Array(length)
  if (!pinks.has(key)) pinkNoise(rate, seed)(made)
  pinks.set(key, made)
  return made
}

/** What the page would know after some seconds of noise in a scene. */
export function observe(scene: Scene): Observed {
  const length = (scene.lasts ? lasting[scene.lasts] : usual) * rate
  const reference = pinkOf(scene.seed, length).map(v => 0.1 * v)
  let heard = convolve(reference, responseOf(scene)).map(v => 0.3 * v)
  if (scene.source) heard = Float32Array.from(filterThrough(scene.source, heard))
  const delay = 960
  const power = (x: Float32Array) => x.reduce((s, v) => s + v * v, 0) / x.length
  const other = pinkOf(scene.seed + 500, length)
  const gain = Math.sqrt((power(heard) / power(other)) * 10 ** ((scene.noise ?? -50) / 10))
  const clean = heard.map((_, n) => (heard[n - delay] ?? 0) + gain * other[n]!)
  const { ears, microphone } = wired(scene.fault, reference, clean)
  const ring = createRing(rate, 2, 2 ** 20)
  const writer = ringWriter(ring)
  const live = createLive(ring, {
    reference: 0,
    microphone: 1,
    length: 'multi',
    overlap: 0.5,
    averaging: { kind: 'exponential', time: 4 },
    spectrum: fast.spectrum,
  })
  let found = null as ReturnType<typeof live.findArrival>
  for (let at = 0; at < reference.length; at += 8192) {
    const part = (x: Float32Array) => x.subarray(at, Math.min(at + 8192, x.length))
    writer.write([part(ears), part(microphone)], part(ears).length)
    if (!found && at > 2 * rate && at % 65_536 === 0) {
      found = live.findArrival(delay / rate)
      if (found) live.setDelay(found.time)
    }
    if (found && found.band[1] < 1000 && at > 6 * rate && at % 32_768 === 0) {
      const better = live.trackArrival()
      if (better && live.delay !== better.time) live.setDelay(better.time)
      if (better) found = { ...better, band: [20, 20_000] }
    }
    if (!found && at > 5 * rate && live.delay === 0) live.setDelay(delay / rate)
    live.poll()
  }
  const curve = measuredCurve(standardGrid)
  live.read(curve)
  const { samples, start, block } = live.response()
  const arrival = live.trackArrival()
  return {
    microphone: levelOf(microphone),
    reference: levelOf(ears),
    sounding: true,
    curve: live.complete ? curve : null,
    delay: live.delay,
    arrival: arrival && { ...arrival },
    expected: scene.fault ? null : delay / rate,
    room: roomTold(samples, rate, Math.round(-start * rate), { block, length: 'multi', window: 'hann' }),
    spectrum: { bands, microphone: new Float32Array(bands.length) },
    silence: null,
    hum: null,
    flattened: isOftenFlat(microphone) && !isOftenFlat(ears),
    others: [],
    unfed: null,
    drift: null,
    compensated: false,
    clocks: false,
    speedOfSound: 343,
  }
}
export const pass = (low: number, high: number) => [
  ...classical('butterworth', 'high', 4, low, rate),
  ...classical('linkwitz-riley', 'low', 4, high, rate),
]
export const full = [
  ...classical('butterworth', 'high', 4, 50, rate),
  ...classical('butterworth', 'low', 2, 18_000, rate),
]
/** Scenes by number, each in another room: some of the numbers from 0 to 19, evenly. */
export const some = (count: number, make: (n: number) => Omit<Scene, 'seed'>): Scene[] =>
  Array.from({ length: count }, (_, n) => ({ seed: n + 1, ...make(Math.floor((n * 20) / count)) }))
/** Part of the scenes of which each of these is said. */
export function shares(scenes: readonly Scene[], ...ids: string[][]): number[] {
  return sharesOf(scenes.map(observe), ...ids)
}
/** The same of what was observed already. */
export function sharesOf(seen: readonly Observed[], ...ids: string[][]): number[] {
  const said = seen.map(o => findingsOf(o).map(f => f.id.replace(/-\d+$/, '')))
  return ids.map(list => said.filter(s => s.some(id => list.includes(id))).length / seen.length)
}
