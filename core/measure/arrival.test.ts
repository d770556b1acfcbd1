import { describe, expect, it } from 'vitest'
import { classical, filterThrough, pinkNoise, realFft, seededRandom, type Section } from '../dsp'
import { expectAccuracy } from '../reference/accuracy'
import { cases, sample } from '../reference/cases'
import { arrivalOf, findArrival, minimumPhasePulse, type Arrival } from './index'

const rate = 48_000
const size = 2 ** 16
const gaussOf = (seed: number) => {
  const random = seededRandom(seed)
  return () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random())
}
const pass = (family: 'butterworth' | 'linkwitz-riley', low: number, lowOrder: number, high: number, order: number) => [
  ...classical('butterworth', 'high', lowOrder, low, rate),
  ...classical(family, 'low', order, high, rate),
]
/** What plays: filters one after the other; several ways are added up. */
const sources: Record<string, Section[][]> = {
  'sub, 30 to 100 Hz': [pass('linkwitz-riley', 30, 4, 100, 4)],
  'sub, 35 to 80 Hz, steep': [pass('linkwitz-riley', 35, 2, 80, 8)],
  'sub, 30 to 100 Hz, Butterworth': [pass('butterworth', 30, 4, 100, 4)],
  'mid, 200 Hz to 2 kHz': [pass('linkwitz-riley', 200, 4, 2000, 4)],
  'full range': [pass('butterworth', 50, 4, 18_000, 2)],
  ...Object.fromEntries([1000, 2000, 4000].map(f => [
    `two-way at ${f / 1000} kHz`,
    [
      [...pass('butterworth', 55, 4, 19_000, 2), ...classical('linkwitz-riley', 'low', 4, f, rate)],
      [...pass('butterworth', 55, 4, 19_000, 2), ...classical('linkwitz-riley', 'high', 4, f, rate)],
    ],
  ])),
}
/** Correct systems of several bands: families and orders, with the crossovers of each. */
const crossings: [string, 'linkwitz-riley' | 'butterworth' | 'bessel', number[], [number, number], number[]][]
  = ([
    ['linkwitz-riley', [2, 4, 8]],
    ['butterworth', [2, 3, 4]],
    ['bessel', [2, 4]],
  ] as const).flatMap(([family, orders]) => [
    [`two-way ${family}`, family, [...orders], [60, 18_000], [1500]],
    [`three-way ${family}, low`, family, [...orders], [45, 18_000], [300, 2500]],
    [`three-way ${family}, high`, family, [...orders], [45, 18_000], [600, 3500]],
    [`four-way ${family}`, family, [...orders], [35, 18_000], [110, 500, 3500]],
    [`sub and top ${family}`, family, [...orders], [32, 18_000], [100]],
    [`sub and two-way ${family}`, family, [...orders], [32, 18_000], [90, 1500]],
  ])
/** Bands of a system; at 12 dB/oct every other one is inverted, as it must be to add up. */
function bandsOf(family: 'linkwitz-riley' | 'butterworth' | 'bessel', order: number, edges: number[], at: number[]) {
  return [...at, null].map((f, n) => [
    ...(order === 2 && n % 2 ? [[-1, 0, 0, 0, 0] as unknown as Section] : []),
    ...classical('butterworth', 'high', 4, edges[0]!, rate),
    ...classical('butterworth', 'low', 2, edges[1]!, rate),
    ...(n > 0 ? classical(family, 'high', order, at[n - 1]!, rate) : []),
    ...(f === null ? [] : classical(family, 'low', order, f, rate)),
  ])
}
const several: Record<string, Section[][]> = {}
interface Scene {
  source: string
  sign: 1 | -1
  /** Samples. */ delay: number
  /** Direct over reverberant in dB; null: dry. */ over: number | null
  /** What a bare hall adds to its lows, in dB. */ bass?: number
  /** Noise at the microphone, re the sound's own RMS. */ noise?: number
  seed: number
}
/** The response of a scene with a little noise, as the bins of a transform. */
function responseOf({ source, sign, delay, over, bass = 0, noise = 0.001, seed }: Scene) {
  const gauss = gaussOf(seed)
  const room = new Float64Array(size)
  room[delay] = sign
  if (over !== null) {
    const time = 0.6 + 0.15 * (seed % 9)
    const tail = room.map((_, n) => (n < delay + 150 ? 0 : gauss() * 10 ** ((-3 * (n - delay)) / rate / time)))
    const lows = filterThrough(classical('butterworth', 'low', 1, 150, rate), tail)
    if (bass) lows.forEach((v, n) => (tail[n]! += v * 10 ** (bass / 20)))
    const energy = tail.reduce((s, v) => s + v * v, 0)
    tail.forEach((v, n) => (room[n]! += v * Math.sqrt(10 ** (-over / 10) / energy)))
  }
  const heard = new Float64Array(2 * size)
  for (const sections of (sources[source] ?? several[source])!)
    filterThrough(sections, room).forEach((v, n) => (heard[n]! += v))
  const rms = Math.sqrt(heard.reduce((s, v) => s + v * v, 0) / size)
  const [re, im] = [new Float64Array(size + 1), new Float64Array(size + 1)]
  realFft(2 * size).forward(heard.map(v => v + noise * rms * gauss()), re, im)
  return { re, im }
}
const told = (scene: Scene): Arrival | null => {
  const { re, im } = responseOf(scene)
  return arrivalOf(re, im, rate, -5000, 20_000)
}
const scenes = (source: string, overs: (number | null)[], count: number): Scene[] =>
  overs.flatMap((over, o) =>
    Array.from({ length: count }, (_, n) => ({
      source,
      over,
      sign: n % 2 ? 1 : (-1 as const),
      delay: 300 + 137 * n,
      seed: 1 + n + 50 * o,
    })))

describe('arrival of what plays a part of the band', () => {
  it.each(Object.keys(sources))('%s, dry: within 0.1 ms, with the right sign', (source) => {
    const off = scenes(source, [null], cases(6, 2)).map((scene) => {
      const found = told(scene)!
      expect(found.polarity).toBe(scene.sign)
      return Math.abs(found.time - scene.delay / rate) * 1000
    })
    expectAccuracy({
      what: `Arrival of a source alone, dry, 60 dB over noise: ${source}`,
      measured: Math.max(...off),
      limit: source.includes('steep') ? 0.5 : 0.1,
      unit: 'ms',
      source: 'known delay behind known minimum-phase filters',
    })
  })
  it.each(['sub, 30 to 100 Hz', 'sub, 30 to 100 Hz, Butterworth'])(
    '%s in rooms, -5 to +10 dB direct over reverberant: told within 0.5 ms, or not told',
    (source) => {
      const all = scenes(source, [10, 5, 0, -5], cases(12, 4))
      const found = all.map(scene => ({ scene, found: told(scene) }))
      const known = found.filter(x => x.found)
      const off = known.map(x => Math.abs(x.found!.time - x.scene.delay / rate) * 1000)
      expect(known.filter(x => x.scene.over! >= 5).length).toBeGreaterThan(0.75 * (all.length / 2))
      expect(off.filter(ms => ms > 0.5).length / known.length).toBeLessThan(0.15)
      // the uncertainty that is told is one: errors stay within three of it
      for (const [n, x] of known.entries()) expect(off[n]!).toBeLessThan(3000 * x.found!.uncertainty + 0.15)
      for (const x of known) if (x.found!.polarity) expect(x.found!.polarity).toBe(x.scene.sign)
    },
  )
  it('of subs in noise and rooms: half of them within 0.25 ms, and none far beyond what is told', () => {
    const subs = Object.keys(sources).filter(s => s.startsWith('sub'))
    const all = subs.flatMap(source => [0.02, 0.1].flatMap(noise =>
      scenes(source, [null, 10, 3], cases(5, 2)).map(scene => ({ ...scene, noise, seed: scene.seed + 1000 * noise }))))
    const found = all.flatMap((scene) => {
      const arrival = told(scene)
      return arrival ? [{ off: Math.abs(arrival.time - scene.delay / rate), uncertainty: arrival.uncertainty }] : []
    })
    expect(found.length).toBeGreaterThan(0.7 * all.length)
    expect(found.filter(f => f.off > 3 * f.uncertainty)).toEqual([])
    expectAccuracy({
      what: 'Arrival of subs, 20 to 34 dB over noise, dry and in rooms: median',
      measured: found.map(f => f.off * 1000).sort((a, b) => a - b)[found.length >> 1]!,
      limit: 0.25,
      unit: 'ms',
      source: 'known delay behind known minimum-phase filters, decaying noise, white noise',
    })
  })
  it.each(['full range', 'two-way at 2 kHz'])('%s in a bare hall full of lows: its highs tell the time', (source) => {
    const off = scenes(source, [3, -3], cases(6, 2)).map((scene) => {
      const found = told({ ...scene, bass: 20 })!
      expect(found.band[1]).toBeGreaterThan(3000)
      return Math.abs(found.time - scene.delay / rate) * 1000
    })
    expectAccuracy({
      what: `Arrival in a hall whose lows are 20 dB up: ${source}`,
      measured: Math.max(...off),
      limit: 0.1,
      unit: 'ms',
      source: 'known delay before decaying noise',
    })
  })
  it('polarity is right in 99 of 100 in rooms, or cannot be told', () => {
    let right = 0
    let wrong = 0
    let silent = 0
    for (const source of Object.keys(sources))
      for (const scene of scenes(source, [10, 3, -3], cases(5, 1))) {
        const polarity = told(scene)?.polarity ?? null
        if (polarity === null) silent++
        else if (polarity === scene.sign) right++
        else wrong++
      }
    expect(wrong / (right + wrong)).toBeLessThanOrEqual(0.01)
    expect(silent).toBeLessThan(right / 3)
  })
})

describe('polarity of correct systems of several bands', () => {
  const levelled = (bands: Section[][], first: number) =>
    bands.map((b, n) => (n === 0 ? [[10 ** (first / 20), 0, 0, 0, 0] as unknown as Section, ...b] : b))
  const systems = crossings.flatMap(([name, family, orders, edges, at]) =>
    orders.flatMap(order => (name.startsWith('sub') ? [0, 6, 10] : [0]).map((first) => {
      const source = `${name} ${6 * order} dB/oct${first ? ` at +${first} dB` : ''}`
      several[source] = levelled(bandsOf(family, order, edges, at), first)
      return source
    })))
  it('is told right in 98 of 100, dry and in rooms, or not at all; of what is inverted as a whole it is said', () => {
    const wrong: string[] = []
    let told_ = 0
    sample(systems, 26).forEach((source, n) => {
      const over = [null, 8, 0][n % 3]!
      const scene: Scene = { source, sign: n % 2 ? 1 : -1, over, delay: 400 + 7 * n, seed: 3 + n }
      const polarity = told(scene)?.polarity ?? null
      if (polarity !== null) told_++
      if (polarity !== null && polarity !== scene.sign) wrong.push(`${source} ${over}`)
    })
    expect(wrong.length / told_, wrong.join()).toBeLessThanOrEqual(0.02)
    const three = systems.filter(s => s.startsWith('three-way linkwitz-riley') && s.includes('24 dB'))
    for (const source of three)
      expect(told({ source, sign: -1, over: 6, delay: 500, seed: 9 })?.polarity).toBe(-1)
  })
})

describe('arrival of recordings', () => {
  const noise = (seed: number) => {
    const x = new Float32Array(size)
    pinkNoise(rate, seed)(x)
    return x
  }
  const late = (x: Float32Array, by: number) => x.map((_, n) => x[n - by] ?? 0)
  it('swapped microphone and reference are known by the sign of the time, to 100 ms', () => {
    const x = noise(3)
    for (const ms of sample([1, 20, 60, 100], 2)) {
      const y = late(x, Math.round(ms * 48))
      expect(findArrival(x, y, rate)!.time * 1000).toBeCloseTo(ms, 1)
      expect(findArrival(y, x, rate)!.time * 1000).toBeCloseTo(-ms, 1)
    }
  })
  it('a sub that plays pink noise is found, with its sign', () => {
    const x = noise(5)
    const sub = Float32Array.from(filterThrough(pass('linkwitz-riley', 30, 4, 100, 4), late(x, 700)), v => -v)
    const found = findArrival(x, sub, rate)!
    // one block of noise says a narrow band only so well
    expect(Math.abs(found.time * rate - 700) / 48).toBeLessThan(1)
    expect(found.polarity).toBe(-1)
    expect(found.band[1]).toBeLessThan(160)
  })
  it('noise and silence have none', () => {
    for (const seed of sample([1, 2, 3, 4, 5, 6], 2))
      expect(findArrival(noise(seed), noise(seed + 40), rate)).toBeNull()
    expect(findArrival(noise(1), new Float32Array(size), rate)).toBeNull()
  })
})

describe('minimum phase', () => {
  it('the pulse behind a Butterworth filter’s magnitude is the filter’s own response', () => {
    const sections = classical('butterworth', 'low', 4, 2000, rate)
    const points = 2 ** 14
    const impulse = new Float64Array(points)
    impulse[0] = 1
    const own = filterThrough(sections, impulse)
    const [re, im] = [new Float64Array(points / 2 + 1), new Float64Array(points / 2 + 1)]
    realFft(points).forward(own, re, im)
    const { pulse } = minimumPhasePulse(re.map((v, k) => Math.log(Math.max(1e-12, Math.hypot(v, im[k]!)))))
    for (let n = 0; n < 400; n++) expect(pulse[n]).toBeCloseTo(own[n]!, 3)
  })
})
