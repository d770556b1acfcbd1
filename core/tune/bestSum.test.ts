import { describe, expect, it } from 'vitest'
import {
  allPass, applyGainAndDelay, applySections, classical, filterInPlace, logGrid, magnitude, seededRandom, unity,
} from '../dsp'
import { cases } from '../reference/cases'
import { scipy } from '../reference/scipy'
import {
  alignImpulses, alignSources, alignVariants, sumImpulses, sumReader, type AlignImpulses, type AlignTask,
} from './index'
import { wordsOf } from '../words'

const rate = 8000
const length = 4096
const positions = 12

/** What is wrong with the moved source: samples too late, decibels too loud, its polarity. */
interface Injected {
  late: number
  louder: number
  polarity: 1 | -1
}
const nothing: Injected = { late: 0, louder: 0, polarity: 1 }

/**
 * A source in a reverberant room (1.1 s) at 12 places: direct sound, decaying noise of the same energy, a pass at
 * 90 Hz, and noise 20 dB under it all. `place` makes the distances, `seed` the room.
 */
function heard(side: 'high' | 'low', place: number, seed: number, wrong: Injected): Float32Array[] {
  const random = seededRandom(seed)
  const distances = seededRandom(place)
  const tail = (1.1 * rate) / Math.log(1000) // e-folding of the amplitude, in samples
  return Array.from({ length: positions }, () => {
    const at = 200 + Math.floor(distances() * 80) + wrong.late
    const x = new Float64Array(length)
    // uniform noise of variance 1/3; Σ e^(-2n/tail) = tail/2
    for (let n = 0; n < length; n++) {
      const noise = 2 * (random() - 0.5) * Math.sqrt(6 / tail) * Math.exp(-n / tail)
      if (at + n < length) x[at + n] = noise + Number(n === 0)
    }
    filterInPlace(x, classical('linkwitz-riley', side, 4, 90, rate))
    const band = x.slice()
    filterInPlace(band, classical('butterworth', 'low', 4, 180, rate))
    const rms = Math.sqrt(band.reduce((s, v) => s + v * v, 0) / length)
    const gain = wrong.polarity * 10 ** (wrong.louder / 20)
    return Float32Array.from(x, v => gain * (v + 0.1 * rms * Math.sqrt(12) * (random() - 0.5)))
  })
}
const site = (seed: number, wrong: Injected): Pick<AlignImpulses, 'reference' | 'move' | 'sampleRate'> => ({
  sampleRate: rate,
  reference: heard('high', seed, 2 * seed + 1000, nothing),
  move: heard('low', seed, 2 * seed + 1001, wrong),
})
const usual = { delay: [-0.025, 0.025], polarity: true, band: [45, 180] } as const

describe('a sub brought to the mains', () => {
  it('is recovered from what was put wrong: 0.1 ms, 0.3 dB and the polarity', () => {
    const many = cases(100, 25)
    const random = seededRandom(7)
    let [close, turned] = [0, 0]
    for (let seed = 1; seed <= many; seed++) {
      const wrong: Injected = {
        late: Math.round((random() - 0.5) * 120),
        louder: Math.round((random() - 0.5) * 80) / 10,
        polarity: random() < 0.5 ? 1 : -1,
      }
      const right = alignImpulses({ ...site(seed, nothing), ...usual, level: [-12, 12] }).candidates[0]!
      const [best] = alignImpulses({ ...site(seed, wrong), ...usual, level: [-12, 12] }).candidates
      const late = Math.abs(best!.delay - right.delay + wrong.late / rate)
      const loud = Math.abs(best!.level - right.level + wrong.louder)
      if (late <= 1e-4 && loud <= 0.3) close++
      if (best!.polarity === right.polarity * wrong.polarity) turned++
    }
    expect(close).toBeGreaterThanOrEqual(0.97 * many)
    expect(turned).toBeGreaterThanOrEqual(0.99 * many)
  })
  it('scores as numpy finds by trying every delay of the grid', async () => {
    for (const seed of [3, 4]) {
      const at = site(seed, { late: 31, louder: 3, polarity: -1 })
      const step = 2e-4
      const weights = Array.from({ length: positions }, (_, n) => 1 + (n % 3))
      const { candidates: [best] } = alignImpulses({ ...at, ...usual, step, weights })
      const truth = await scipy<{ score: number, delay: number, polarity: number }>('align', {
        rate, reference: at.reference.map(x => Array.from(x)), move: at.move.map(x => Array.from(x)),
        band: usual.band, delays: [-0.025, step, 251], polarities: [1, -1], gain: 1, weights,
      })
      expect(best!.score).toBeCloseTo(10 * Math.log10(truth.score), 6)
      expect(best!.delay).toBeCloseTo(truth.delay, 9)
      expect(best!.polarity).toBe(truth.polarity)
    }
  })
  it('finds the band where both are heard by itself', () => {
    const { band: [low, high] } = alignImpulses({ ...site(5, nothing), delay: [-0.01, 0.01], polarity: true })
    expect(low).toBeLessThan(90)
    expect(high).toBeGreaterThan(90)
    expect(low).toBeGreaterThan(30)
    expect(high).toBeLessThan(300)
  })
  it('says what it changes, and what places and air a little off would cost', () => {
    const here = { ...site(6, { late: 40, louder: 0, polarity: 1 }), ...usual }
    // of air alone: how long the sound flies is told by the plan, for a response holds the electronics as well
    expect(alignImpulses(here).candidates[0]!.reasons).toHaveLength(2)
    const [best] = alignImpulses({ ...here, flights: here.reference.map((_, n) => 0.01 + 0.004 * n) }).candidates
    expect(wordsOf(best!.reasons[0]!)).toMatch(/^\+\d+\.\d dB at position \d+, .*compared with what is set now/)
    expect(wordsOf(best!.reasons[1]!)).toMatch(/^±0.3 m cost −\d/)
    expect(wordsOf(best!.reasons[2]!)).toMatch(/^±2 °C cost/)
  })
  it('keeps every position above what is allowed, or says that none does', () => {
    const at = site(8, nothing)
    const free = alignImpulses({ ...at, ...usual }).candidates[0]!
    const worst = Math.min(...free.positions)
    const kept = alignImpulses({ ...at, ...usual, worst: worst + 0.2 }).candidates
    for (const c of kept) {
      const isKept = Math.min(...c.positions) >= worst + 0.2 - 1e-9
      expect(isKept || /no delay keeps/.test(wordsOf(c.reasons[0]!))).toBe(true)
    }
    const never = alignImpulses({ ...at, ...usual, worst: -1e-9 }).candidates[0]!
    expect(wordsOf(never.reasons[0]!)).toMatch(/no delay keeps every position above/)
  })
})

describe('a search over filters too', () => {
  const frequencies = logGrid(48, 40, 200)
  const turned = (f: number, delay = 0) => {
    const curve = unity(frequencies)
    applySections(curve, [allPass(f, 1, 48_000)], 48_000)
    applyGainAndDelay(curve, 1, delay)
    return curve
  }
  const plain = unity(frequencies)
  const task: AlignTask = {
    frequencies, widths: frequencies, weights: [1], delay: [-0.01, 0.01], step: 2e-5, polarity: true,
    pairs: [{ reference: turned(90, 0.003), move: plain }],
  }
  const variants = [{}, ...[60, 75, 90, 110].map(f => ({ move: turned(f) }))]
  it('finds the filter and the delay that stand between two sources', () => {
    const { candidates: [best], maps } = alignVariants(task, variants)
    expect(best).toMatchObject({ variant: 3, polarity: 1 })
    expect(best!.delay).toBeCloseTo(0.003, 6)
    expect(best!.score).toBeGreaterThan(-1e-6)
    expect(maps).toHaveLength(variants.length)
    // each map's best is what a search with that variant alone finds
    maps.forEach((map, n) => {
      const [alone] = alignVariants(task, [{}, variants[n]!]).candidates.filter(c => c.variant === (n ? 1 : 0))
      if (alone) expect(Math.max(...map.kept, ...map.turned)).toBeCloseTo(alone.score, 9)
    })
    // without the filter it is told too, and is worse
    expect(alignSources(task)[0]!.score).toBeLessThan(best!.score - 0.05)
  })
  it('ends when it is told to, with what it has', () => {
    const parts: number[] = []
    const found = alignVariants(task, variants, (part) => {
      parts.push(part)
      return part < 0.4
    })
    expect(parts).toEqual([0.2, 0.4])
    expect(found.maps).toHaveLength(2)
  })
  it('reads any delay as the search does', () => {
    const read = sumReader(task)
    const [best] = alignSources(task)
    expect(read(best!).score).toBeCloseTo(best!.score, 9)
    expect(read({ delay: 0.004, polarity: -1 }).score).toBeLessThan(best!.score)
  })
  it('moves nothing where a whole period more sums as well', () => {
    const tone = unity(Float64Array.of(100))
    const one = { ...task, frequencies: [100], widths: [1], pairs: [{ reference: tone, move: tone }] }
    const [best, ...others] = alignSources({ ...one, delay: [-0.025, 0.025] })
    expect(best).toMatchObject({ delay: 0, polarity: 1 })
    expect(others.filter(c => Math.abs(c.delay) < 0.005)).toEqual([])
  })
  it('takes what is even before what has most energy where that is wished', () => {
    // one position wants 0, the other 4 ms: the energy of the louder one decides unless evenness counts
    const pairs = [0, 0.004].map(delay => ({ reference: turned(90, delay), move: turned(90) }))
    const wish = { ...task, pairs, weights: [4, 1], polarity: false }
    const [energy, even] = [alignSources(wish)[0]!, alignSources({ ...wish, even: 3 })[0]!]
    const apart = ({ positions: [a, b] }: { positions: number[] }) => Math.abs(a! - b!)
    expect(apart(even)).toBeLessThan(apart(energy))
  })
})

describe('two sounds at one place', () => {
  const line = (n: number) => ({ re: Float64Array.of(Math.cos(n)), im: Float64Array.of(Math.sin(n)) })
  const task = (phase: number): AlignTask => ({
    frequencies: [1000], widths: [1], pairs: [{ reference: line(0), move: line(phase) }],
    delay: [0, 1e-9], step: 1e-9, polarity: false, weights: [1],
  })
  it.each([
    [0, 0], // equal and in phase: +6 dB, the ideal (common practice)
    [(2 * Math.PI) / 3, -6.02], // 120° apart: 0 dB (common practice)
    [Math.PI / 2, -3.01],
  ])('%f rad apart read %f dB under the ideal', (phase, level) => {
    expect(alignSources(task(phase))[0]!.score).toBeCloseTo(level, 2)
  })
  it('1 ms apart have their first null at 500 Hz (common practice)', () => {
    const impulse = Float32Array.from({ length: 4800 }, (_, n) => Number(n === 0))
    const part = { responses: [impulse], gain: 0, polarity: 1 } as const
    const [sum] = sumImpulses([{ ...part, delay: 0 }, { ...part, delay: 0.001 }], 48_000)
    const levels = magnitude(sum!)
    const null_ = [...levels.keys()].filter(k => sum!.frequencies[k]! < 900)
      .reduce((a, b) => (levels[b]! < levels[a]! ? b : a))
    expect(sum!.frequencies[null_]).toBeCloseTo(500, -1.2)
    expect(levels[0]).toBeCloseTo(6.02, 1)
  })
})

describe('what cannot be aligned is refused in words', () => {
  const at = site(9, nothing)
  const high = heard('high', 9, 5, nothing).map((x) => {
    const y = Float64Array.from(x)
    filterInPlace(y, classical('butterworth', 'high', 8, 1500, rate))
    return Float32Array.from(y)
  })
  const low = at.move.map((x) => {
    const y = Float64Array.from(x)
    filterInPlace(y, classical('butterworth', 'low', 8, 60, rate))
    return Float32Array.from(y)
  })
  it.each<[string, Partial<AlignImpulses>, RegExp]>([
    ['nothing in common', { reference: high, move: low, band: undefined }, /overlap nowhere/],
    ['a band beyond the rate', { band: [100, 5000] }, /half the sample rate/],
    ['weights of others', { weights: [1, 1] }, /12 positions, but 2 weights/],
    ['weights of nothing', { weights: Array.from({ length: 12 }, () => 0) }, /weight 0/],
    ['silence', { move: at.move.map(x => new Float32Array(x.length)) }, /silent/],
    ['far too much', { step: 1e-8 }, /too much at once/],
  ])('%s', (_, change, words) => {
    expect(() => alignImpulses({ ...at, ...usual, ...change })).toThrow(words)
  })
})
