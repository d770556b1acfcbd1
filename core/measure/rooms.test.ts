import { describe, expect, it } from 'vitest'
import { bandPass, filterThrough, pinkNoise, realFft, seededRandom } from '../dsp'
import { expectAccuracy } from '../reference/accuracy'
import { cases, sample } from '../reference/cases'
import {
  bandFilter,
  decayTimes,
  fractionalOctaves,
  modulationLeft,
  modulations,
  speechTransmission,
  stiOfModulation,
  transferOf,
  whyNoDecay,
  withoutTaper,
  type BandDecay,
} from './index'
import { wordsOf } from '../words'

const rate = 48_000
const gaussOf = (seed: number) => {
  const random = seededRandom(seed)
  return () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random())
}
/** Noise that decays by 60 dB in `time` after a silence, over a floor; then cut to `seconds`. */
function decaying(time: number, seed: number, { floor = 0, seconds = 1.3 * time + 0.2, lead = 480 } = {}) {
  const gauss = gaussOf(seed)
  return Float32Array.from(
    { length: Math.round(seconds * rate) + lead },
    (_, n) => (n < lead ? 0 : gauss() * 10 ** ((-3 * (n - lead)) / rate / time)) + floor * gauss(),
  )
}
/** What is heard of a sound in a room of this response, as long as the sound. */
function convolve(x: Float32Array, h: Float32Array): Float32Array {
  const size = 2 ** Math.ceil(Math.log2(x.length + h.length))
  const fft = realFft(size)
  const spectrum = (signal: Float32Array) => {
    const padded = new Float64Array(size)
    padded.set(signal)
    const [re, im] = [new Float64Array(size / 2 + 1), new Float64Array(size / 2 + 1)]
    fft.forward(padded, re, im)
    return { re, im }
  }
  const [a, b] = [spectrum(x), spectrum(h)]
  const re = a.re.map((v, k) => v * b.re[k]! - a.im[k]! * b.im[k]!)
  const im = a.re.map((v, k) => v * b.im[k]! + a.im[k]! * b.re[k]!)
  const out = new Float64Array(size)
  fft.inverse(re, im, out)
  return new Float32Array(out.subarray(0, x.length))
}
const seeds = sample([1, 2, 3, 4, 5, 6], 4)
/** Mean over seeds of a figure of one band. */
const meanOf = (all: BandDecay[][], band: string, figure: (b: BandDecay) => number | null | undefined) =>
  all.reduce((sum, bands) => sum + (figure(bands.find(b => b.band === band)!) ?? NaN) / all.length, 0)

describe('decay times by band', () => {
  it.each([
    [0.2, 0],
    [0.2, 0.0056],
    [0.8, 0],
    [0.8, 0.0056],
    [2, 0.0056],
    [6, 0],
  ])('of %d s, noise of %d under the start (0.0056: 45 dB), are within 2 %, EDT within 5 %', (time, floor) => {
    // chance makes one decay of noise scatter by 1/√(bandwidth × time): many of them are taken together
    const many = Array.from({ length: Math.ceil(6 / time) }, (_, k) =>
      decayTimes(decaying(time, k + 1, { floor }), rate))
    const bands = many.flatMap(list => list.slice(2))
    const off = (figure: (b: BandDecay) => number | undefined) => {
      const told = bands.flatMap(b => (figure(b) === undefined ? [] : [[figure(b)!, b.middle] as const]))
      expect(told.length, `${time} s`).toBeGreaterThan(0.6 * bands.length)
      const weight = told.reduce((sum, [, w]) => sum + w, 0)
      return Math.abs(told.reduce((sum, [t, w]) => sum + t * w, 0) / weight / time - 1)
    }
    for (const [name, figure, limit] of [
      ['T20', (b: BandDecay) => b.t20?.time, 2],
      ['T30', (b: BandDecay) => b.t30?.time, 2],
      ['EDT', (b: BandDecay) => b.early?.time, 5],
    ] as const)
      expectAccuracy({
        what: `${name} of ${time} s${floor ? ', 45 dB over noise' : ''}`,
        measured: 100 * off(figure),
        limit,
        unit: '%',
        source: 'ISO 3382-1; decaying noise of known time',
      })
  })
  it('cut too early there is no figure, and it says so; cut at 40 dB there is T20 and no T30', () => {
    const early = decayTimes(decaying(2, 1, { seconds: 0.2 }), rate)
    for (const b of early) expect([b.early, b.t20, b.t30, b.c80], b.band).toEqual([null, null, null, null])
    expect(wordsOf(whyNoDecay(early)!)).toContain('ends before it has decayed')
    const later = seeds.map(seed => decayTimes(decaying(1, seed, { seconds: 40 / 60 }), rate))
    for (const band of ['1 kHz', '2 kHz', '4 kHz']) {
      expect(Math.abs(meanOf(later, band, b => b.t20?.time) - 1), band).toBeLessThan(0.03)
      expect(later[0]!.find(b => b.band === band)!.t30).toBeNull()
      expect(later[0]!.find(b => b.band === band)!.doubts.map(wordsOf).join()).toContain('longer tail')
    }
  })
  it('the same followed by digital silence is cut as well, not a dry room', () => {
    const x = new Float32Array(3 * rate)
    x.set(decaying(2, 4, { seconds: 0.2 }))
    for (const b of decayTimes(x, rate)) expect(b.early, b.band).toBeNull()
  })
  it('nothing decays in silence, a tone, or noise', () => {
    const gauss = gaussOf(9)
    for (const x of [
      new Float32Array(rate),
      Float32Array.from({ length: 2 * rate }, (_, n) => Math.sin((2 * Math.PI * 1000 * n) / rate)),
      Float32Array.from({ length: 2 * rate }, gauss),
    ]) {
      const bands = decayTimes(x, rate)
      expect(bands.flatMap(b => [b.early, b.t20, b.t30, b.c50]).filter(x => x !== null)).toEqual([])
      expect(wordsOf(whyNoDecay(bands)!)).toMatch(/Nothing decays|ends before/)
      expect(speechTransmission(x, rate)).toBeNull()
    }
  })
  it('a bent decay and a filter that is as slow as the room are told', () => {
    const [fast, slow] = [decaying(0.3, 5, { seconds: 3 }), decaying(2, 6, { seconds: 3 })]
    const bent = decayTimes(fast.map((v, n) => v + 0.03 * slow[n]!), rate)
    expect(bent.find(b => b.band === '2 kHz')!.doubts.map(wordsOf).join()).toContain('bent')
    const dry = decayTimes(decaying(0.25, 7), rate)
    expect(dry.find(b => b.band === '63 Hz')!.doubts.map(wordsOf).join()).toContain('filter takes part')
    expect(dry.find(b => b.band === '4 kHz')!.doubts).toEqual([])
  })
})

describe('a running average of a hall', () => {
  it('shows its decay without the window’s taper when the block is long enough, and no figure when it is not', () => {
    const time = 2
    const room = decaying(time, 11, { seconds: 2.5, lead: 0 })
    const source = new Float32Array(60 * rate)
    pinkNoise(rate, 5)(source)
    const heard = convolve(source, room)
    const bandsAt = (length: number) => {
      const { impulse } = transferOf(source, heard, rate, { length, averaging: { kind: 'all' }, delay: 0 })
      const { samples } = withoutTaper(impulse, 'hann', rate)
      return decayTimes(samples, rate).slice(3, 6)
    }
    const long = bandsAt(2 ** 17)
    expect(long.filter(b => b.early).length).toBeGreaterThan(1)
    for (const b of long)
      for (const figure of [b.early, b.t20, b.t30])
        if (figure) expect(Math.abs(figure.time / time - 1), `${b.band} ${b.range}`).toBeLessThan(0.12)
    for (const b of bandsAt(2 ** 14)) expect([b.early, b.t20, b.t30], b.band).toEqual([null, null, null])
  })
})

describe('a running average while one listens', () => {
  it('tells the early decay within 5 %, or says why it may not', () => {
    const source = new Float32Array(20 * rate)
    pinkNoise(rate, 6)(source)
    const wrong = sample([0.4, 4, 1.1, 1.8], 2).flatMap((time) => {
      const room = decaying(time, 12, { seconds: 1.3 * time, lead: 0 })
      const truth = decayTimes(room, rate)
      const heard = convolve(source, room)
      return [14, 16, 17].flatMap((power) => {
        const options = { length: 2 ** power, averaging: { kind: 'all' }, delay: 0 } as const
        const { samples } = withoutTaper(transferOf(source, heard, rate, options).impulse, 'hann', rate)
        return decayTimes(samples, rate).slice(2).flatMap((b, k) => {
          const exact = truth[k + 2]!.early
          const off = b.early && exact ? b.early.time / exact.time - 1 : 0
          const isTold = Math.abs(off) < 0.05 || b.doubts.length
          return isTold ? [] : [`${time} s in 2^${power}, ${b.band}: ${off.toFixed(2)}`]
        })
      })
    })
    expect(wrong).toEqual([])
  })
})

describe('clarity', () => {
  it.each([0.5, 1.1, 2.4])('of an exponential decay of %d s is its closed form, in the lows too', (time) => {
    const many = Array.from({ length: cases(24, 8) }, (_, k) => decayTimes(decaying(time, 40 + k), rate).slice(0, 4))
    const late = Math.exp((-13.815 * 0.05) / time)
    /** Energies are averaged, not their ratios: chance is large where 50 ms hold few periods. */
    const early = (band: string) => meanOf(many, band, b => b.d50)
    for (const band of ['250 Hz', '500 Hz']) expect(Math.abs(early(band) - (1 - late)), band).toBeLessThan(0.06)
    const off = ['63 Hz', '125 Hz'].map(band => Math.abs(early(band) - (1 - late)))
    expect(Math.max(...off)).toBeLessThan(0.12)
    const ts = ['125 Hz', '250 Hz', '500 Hz'].map(band => meanOf(many, band, b => b.ts) / (time / 13.815))
    for (const t of ts) expect(Math.abs(t - 1)).toBeLessThan(0.12)
  })
  it('early is cut from late before the filter, whose tail then counts with what it belongs to', () => {
    // Parseval: energy of the cut parts behind the filter’s magnitude, by scipy’s own Fourier transform elsewhere
    for (const seed of sample([1, 2, 3, 4], 1)) {
      const x = decaying(1.2, seed, { lead: 0 })
      const bands = decayTimes(x, rate)
      for (const name of ['63 Hz', '125 Hz', '1 kHz']) {
        const band = fractionalOctaves(1).find(b => b.name === name)!
        const energy = (from: number, to: number) => {
          const part = new Float64Array(to - from + rate)
          for (let n = from; n < Math.min(to, x.length); n++) part[n - from] = x[n]!
          return filterThrough(bandFilter(band, rate), part).reduce((s, v) => s + v * v, 0)
        }
        const at = Math.round(0.05 * rate)
        const truth = 10 * Math.log10(energy(0, at) / energy(at, x.length))
        const { c50, d50 } = bands.find(b => b.band === name)!
        expectAccuracy({
          what: `C50 at ${name} of a decay, seed ${seed}`,
          measured: Math.abs(c50! - truth),
          limit: 0.5,
          unit: 'dB',
          source: 'ISO 3382-1 annex A: cut before the filter',
        })
        expect(Math.abs(d50! - 1 / (1 + 10 ** (-truth / 10)))).toBeLessThan(0.02)
      }
    }
  })
})

describe('speech transmission with levels', () => {
  const closed = (time: number, left: number[]) =>
    stiOfModulation(left.map(l => modulations.map(f => l / Math.sqrt(1 + ((2 * Math.PI * f * time) / 13.8155) ** 2))))
  const levels = (speech: number, noise: number) => ({
    speech: Array<number>(7).fill(speech),
    noise: Array<number>(7).fill(noise),
  })
  it.each([
    [0.5, 65, 40],
    [1, 65, 65],
    [2, 80, 50],
    [1.5, 30, 0],
  ])('a decay of %d s, speech at %d dB in noise of %d dB an octave, is its closed form', (time, speech, noise) => {
    const given = levels(speech, noise)
    const values = seeds.map(seed => speechTransmission(decaying(time, seed), rate, given)!)
    expectAccuracy({
      what: `Speech transmission: ${time} s, speech ${speech} dB, noise ${noise} dB`,
      measured: Math.abs(values.reduce((a, b) => a + b) / values.length - closed(time, modulationLeft(given))),
      limit: 0.01,
      unit: '',
      source: 'IEC 60268-16 ed. 4 (tables from memory); Houtgast, Steeneken & Plomp 1980',
    })
  })
  it('loud speech masks itself, and faint speech is not heard', () => {
    const of = (speech: number) =>
      stiOfModulation(modulationLeft(levels(speech, -20)).map(l => modulations.map(() => l)))
    expect(of(65)).toBeGreaterThan(of(100))
    expect(of(65)).toBeGreaterThan(of(15) + 0.3)
  })
  it('noise in one octave takes from that octave only, and from the next by masking', () => {
    const noisy = levels(60, -20)
    noisy.noise[2] = 90
    const [before, after] = [modulationLeft(levels(60, -20)), modulationLeft(noisy)]
    expect(after[2]!).toBeLessThan(0.01)
    expect(after[1]).toBe(before[1])
    expect(after[3]!).toBeLessThan(before[3]! - 0.3)
    expect(after[4]).toBe(before[4])
  })
  it('a dry click has no room in it; cut reverberation has no figure', () => {
    const click = new Float32Array(rate)
    click[100] = 1
    expect(speechTransmission(click, rate)!).toBeGreaterThan(0.98)
    expect(speechTransmission(filterThrough(bandPass(1, 80, 12_000, rate), click), rate)!).toBeGreaterThan(0.97)
    expect(speechTransmission(decaying(2, 3, { seconds: 0.2 }), rate)).toBeNull()
  })
})
