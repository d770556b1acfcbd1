import { describe, expect, it } from 'vitest'
import {
  bandPass,
  classical,
  createInterpolator,
  exponentialSweep,
  filterThrough,
  pinkNoise,
  realFft,
  seededRandom,
} from '../dsp'
import { expectAccuracy } from '../reference/accuracy'
import { cases, sample } from '../reference/cases'
import { scipy, worstError, type ComplexValues } from '../reference/scipy'
import { analyseSweep, bandLevelsOf, deconvolve, findSweep, fractionalOctaves } from './index'
import { message } from '../words'

const rate = 48_000
const plan = { low: 20, high: 20_000, seconds: 3, level: -12 }
const sweep = exponentialSweep(plan, rate)
const lead = 24_000
const gaussOf = (seed: number) => {
  const random = seededRandom(seed)
  return () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random())
}
/** The sweep with silence before and behind it. */
function padded(tail = 1, signal: ArrayLike<number> = sweep): Float32Array {
  const out = new Float32Array(lead + signal.length + tail * rate)
  out.set(signal, lead)
  return out
}
const noisy = (x: Float32Array, level: number, seed: number) => {
  const gauss = gaussOf(seed)
  return x.map(v => v + level * gauss())
}
const reference = padded()
/** A response convolved by its transform (scipy’s own in the deconvolution below). */
function roomOf(time: number, seed: number, direct = 480): [number, number][] {
  const gauss = gaussOf(seed)
  const random = seededRandom(seed + 100)
  return [
    [direct, 1],
    ...Array.from({ length: 500 }, (): [number, number] => {
      const n = Math.floor(random() * time * rate)
      return [direct + 100 + n, 0.25 * gauss() * 10 ** ((-3 * n) / rate / time)]
    }),
  ]
}
function through(x: Float32Array, taps: readonly [number, number][]) {
  const size = 2 ** Math.ceil(Math.log2(x.length + Math.max(...taps.map(t => t[0])) + 1))
  const fft = realFft(size)
  const spectrumOf = (signal: Float64Array) => {
    const [re, im] = [new Float64Array(size / 2 + 1), new Float64Array(size / 2 + 1)]
    fft.forward(signal, re, im)
    return { re, im }
  }
  const response = new Float64Array(size)
  for (const [late, gain] of taps) response[late]! += gain
  const sound = new Float64Array(size)
  sound.set(x)
  const [a, b] = [spectrumOf(sound), spectrumOf(response)]
  for (let k = 0; k <= size / 2; k++) {
    const re = a.re[k]! * b.re[k]! - a.im[k]! * b.im[k]!
    a.im[k] = a.re[k]! * b.im[k]! + a.im[k]! * b.re[k]!
    a.re[k] = re
  }
  fft.inverse(a.re, a.im, sound)
  return Float32Array.from(sound.subarray(0, x.length))
}

describe('sweep', () => {
  it('has the level asked for and starts and ends at nothing', () => {
    const rms = 10 * Math.log10(sweep.reduce((s, v) => s + v * v, 0) / sweep.length)
    expect(rms).toBeCloseTo(-12, 0)
    expect([sweep[0], sweep[sweep.length - 1]]).toEqual([0, expect.closeTo(0, 6)])
    expect(() => exponentialSweep({ ...plan, high: 30_000 }, rate)).toThrow('not possible')
    expect(() => exponentialSweep({ ...plan, seconds: 0 }, rate)).toThrow('0.1 to 60')
  })
  it('finds a known system: its delay, and its response as scipy filters it', async () => {
    const sections = bandPass(1, 200, 5000, rate)
    const late = new Float32Array(reference.length)
    late.set(reference.subarray(0, reference.length - 960), 960)
    const out = Float32Array.from(await scipy<number[]>('sosfilt', { sections, x: late }))
    const result = analyseSweep(reference, out, plan, rate, 1)
    const direct = filterThrough(
      sections,
      Float32Array.from({ length: 4096 }, (_, n) => (n === 0 ? 1 : 0)),
    )
    const zero = Math.round((960 / rate - result.start) * rate)
    const size = 4096
    const ours = await scipy<ComplexValues>('rfft', { x: result.impulse.subarray(zero - 20, zero - 20 + size) })
    const truth = await scipy<ComplexValues>('rfft', { x: direct })
    for (const f of [100, 300, 1000, 3000, 10_000]) {
      const k = Math.round((f / rate) * size)
      const off = 20 * Math.log10(Math.hypot(ours.re[k]!, ours.im[k]!) / Math.hypot(truth.re[k]!, truth.im[k]!))
      expect(off, `${f} Hz`).toBeCloseTo(0, 1)
    }
    expect(Math.abs(result.arrival - 960 / rate)).toBeLessThan(3 / rate)
  })
  it('deconvolution is scipy’s division of spectra', async () => {
    const x = sweep.subarray(0, 4096)
    const y = filterThrough(bandPass(1, 200, 5000, rate), x)
    const ours = deconvolve(x, y, { low: 1, high: 24_000 }, rate)
    const truth = await scipy<number[]>('deconvolve', { x, y, size: 8192, floor: 1e-9 })
    expect(worstError(ours, new Float64Array(8192), { re: truth, im: new Array(8192).fill(0) })).toBeLessThan(1e-6)
  })
})

describe('noise of a sweep', () => {
  it.each([0, 20, 40, 60, 80])('signal-to-noise by octave is true at %d dB', (wanted) => {
    const wet = through(padded(1.5), roomOf(0.5, 4)).map(v => 0.1 * v)
    const pink = new Float32Array(wet.length)
    pinkNoise(rate, 8)(pink)
    const bands = fractionalOctaves(1, 31.5, 14_000)
    const during = (x: Float32Array) => bandLevelsOf(x.subarray(lead, lead + sweep.length), rate, bands)
    const [signal, noise] = [during(wet), during(pink)]
    const gain = 10 ** ((signal[5]! - noise[5]! - wanted) / 20)
    const heard = wet.map((v, n) => v + gain * pink[n]!)
    const result = analyseSweep(padded(1.5), heard, plan, rate, 1)
    const truth = bands.map((_, k) => signal[k]! - noise[k]! - 20 * Math.log10(gain))
    const off = bands.flatMap((b, k) => {
      const told = result.signalToNoise.find(x => x.band === b.name)!.level
      // half a second of noise says the lowest octaves within chance only
      return b.middle > 100 && truth[k]! >= 0 ? [Math.abs(told - truth[k]!)] : []
    })
    expect(off.length).toBeGreaterThan(4)
    expectAccuracy({
      what: `Signal-to-noise of a sweep by octave, about ${wanted} dB`,
      measured: Math.max(...off),
      limit: 2,
      unit: 'dB',
      source: 'pink noise of known level under a known room',
    })
  })
  it('is not told where there is no silence, or nothing in it', () => {
    const none = analyseSweep(reference.subarray(lead), reference.subarray(lead), plan, rate, 1)
    expect(none.signalToNoise).toEqual([])
    expect(none.warnings).toContainEqual(message('sweep.noSilence'))
    expect(analyseSweep(reference, reference, plan, rate, 1).signalToNoise).toEqual([])
  })
  it('the curve says where noise governs it, and is believed where it does not', () => {
    const quiet = filterThrough(classical('butterworth', 'low', 8, 1000, rate), reference).map(v => v * 0.1)
    const { curve } = analyseSweep(reference, noisy(Float32Array.from(quiet), 0.001, 3), plan, rate, 1)
    const at = (f: number) => curve.coherence[curve.frequencies.findIndex(x => x >= f)]!
    for (const f of [50, 200, 800]) expect(at(f), `${f} Hz`).toBeGreaterThan(0.98)
    expect(at(12_000)).toBeLessThan(0.7)
    expect(at(15.7)).toBe(0)
  })
})

describe('distortion of a sweep', () => {
  const bent = (x: Float32Array) => x.map(v => v + 0.2 * v * v + 0.1 * v ** 3)
  const amplitude = 10 ** (plan.level / 20) * Math.SQRT2
  const truth = [20 * Math.log10((0.2 * amplitude) / 2), 20 * Math.log10((0.1 * amplitude ** 2) / 4)]
  /** Power at which a room passes a band about f, from its taps. */
  const passed = (taps: readonly [number, number][], f: number) => {
    let sum = 0
    for (let k = -20; k <= 20; k++) {
      const w = (2 * Math.PI * f * 1.06 ** (k / 20)) / rate
      const re = taps.reduce((s, [n, g]) => s + g * Math.cos(w * n), 0)
      const im = taps.reduce((s, [n, g]) => s + g * Math.sin(w * n), 0)
      sum += re * re + im * im
    }
    return sum / 41
  }
  it.each([
    ['dry', [[480, 1]] as [number, number][]],
    ['a room of 0.8 s', roomOf(0.8, 12)],
  ])('harmonics are what x + 0.2 x² + 0.1 x³ makes, %s', (name, room) => {
    const heard = noisy(through(bent(padded(1.5)), room).map(v => 0.3 * v), 1e-5, 6)
    const { harmonics, total } = analyseSweep(padded(1.5), heard, plan, rate, 1.4)
    const off: number[] = []
    for (const order of [2, 3])
      for (const f of [200, 500, 1000, 2500]) {
        const h = harmonics.find(x => x.order === order)!
        const k = h.frequencies.findIndex(x => x > 0.95 * f)
        const at = h.frequencies[k]!
        const room2 = 10 * Math.log10(passed(room, order * at) / passed(room, at))
        off.push(Math.abs(h.level[k]! - truth[order - 2]! - room2))
      }
    expectAccuracy({
      what: `Harmonics 2 and 3 of a sweep, ${name}`,
      measured: Math.max(...off),
      limit: 0.5,
      unit: 'dB',
      source: 'Chebyshev terms of a known polynomial; Farina 2000',
    })
    if (name === 'dry') {
      const k = total.frequencies.findIndex(f => f > 900)
      expect(total.harmonic[k]).toBeCloseTo(10 * Math.log10(10 ** (truth[0]! / 10) + 10 ** (truth[1]! / 10)), 0)
      expect(total.withNoise[k]!).toBeGreaterThan(total.harmonic[k]!)
    }
  })
  it('ends where noise governs: no harmonic is told of a linear system', () => {
    const { harmonics, total } = analyseSweep(reference, noisy(reference, 0.001, 9), plan, rate, 1)
    const told = harmonics.flatMap(h => [...h.level]).filter(l => !Number.isNaN(l))
    expect(told.length).toBeLessThan(0.2 * harmonics.flatMap(h => [...h.level]).length)
    const k = total.frequencies.findIndex(f => f > 900)
    // noise of -60 dBFS under a sweep of -12
    expect(total.withNoise[k]).toBeCloseTo(-48, 0)
  })
})

describe('a sweep is kept only if all of it was heard', () => {
  const refused = (ref: Float32Array, mic = ref) => {
    try {
      analyseSweep(ref, mic, plan, rate, 1)
      return ''
    }
    catch (error) { return (error as RangeError).message }
  }
  const without = (x: Float32Array, at: number, count: number) => {
    const out = new Float32Array(x.length)
    out.set(x.subarray(0, at))
    out.set(x.subarray(at + count), at)
    return out
  }
  const twice = (x: Float32Array, at: number, count: number) => {
    const out = new Float32Array(x.length)
    out.set(x.subarray(0, at))
    out.set(x.subarray(at - count, x.length - count), at)
    return out
  }
  const placeOf = (part: number) => Math.round(lead + part * sweep.length) + 37
  const places = sample([0.06, 0.2, 0.4, 0.6, 0.8, 0.9, 0.97], 3).map(placeOf)
  it.each([
    ['dropped', without],
    ['repeated', twice],
  ])('a block of 128 that was %s, anywhere, is refused', (_, damage) => {
    for (const at of places) expect(refused(damage(noisy(reference, 1e-4, 2), at, 128)), `${at}`).toContain('broken')
  })
  it.each([
    ['dropped', without],
    ['repeated', twice],
  ])('a block that was %s in the microphone alone is refused too, dry and in a room', (_, damage) => {
    for (const [room, taps] of [['dry', [[480, 1]]], ['room', roomOf(0.8, 5)]] as [string, [number, number][]][])
      for (const count of [128, 512]) {
        const mic = noisy(through(reference, taps).map(v => 0.1 * v), 3e-5, 9)
        // up to 10 kHz: what a jump above does to the curve is hardly more than noise there
        const words = places.filter(at => at < placeOf(0.95))
          .map(at => refused(reference, damage(mic, at + 480, count)))
        expect(words.map(w => /missing there|left out a part|twice/.test(w)), `${room}, ${count}`)
          .toEqual(words.map(() => true))
      }
  })
  it('samples that are missing or came twice are never kept: any number, anywhere, in rooms and bent', () => {
    const random = seededRandom(11)
    const kept = Array.from({ length: cases(16, 5) }, (_, c) => {
      const taps = c % 3 ? roomOf(0.3 + 0.7 * random(), c) : [[480, 1]] as [number, number][]
      const bent = c % 2 ? reference.map(v => v + 0.02 * v * v + 0.02 * v ** 3) : reference
      const mic = noisy(through(bent, taps).map(v => 0.1 * v), 0.1 * 10 ** (-(70 + 20 * random()) / 20), c)
      const at = Math.round(lead + 480 + (0.03 + 0.94 * random()) * sweep.length)
      const count = c % 2 ? [64, 128, 256, 441, 480, 512, 1024][c % 7]! : 16 + Math.floor(1500 * random())
      return refused(reference, (random() < 0.6 ? without : twice)(mic, at, count)) ? '' : `${c}: ${count} at ${at}`
    })
    expect(kept.filter(Boolean)).toEqual([])
  })
  it('a microphone that hears it late is measured; one whose recording ends before, refused', () => {
    const quiet = (late: number) => noisy(through(padded(3), roomOf(0.6, 4, late * rate)).map(v => 0.1 * v), 2e-5, 3)
    for (const late of [0.3, 1.8, 2.5]) {
      const { arrival, warnings } = analyseSweep(padded(3), quiet(late), plan, rate, 1)
      expect(arrival).toBeCloseTo(late, 3)
      expect(warnings).toEqual([])
    }
    expect(refused(reference, quiet(1.8).slice(0, reference.length))).toContain('its end is missing, by 0.7')
  })
  it('a clock that runs at another speed is told, and by how much; loudspeakers out of time are not', () => {
    const interpolator = createInterpolator()
    const size = 2 ** 18
    const clocks = [[0.002, [[480, 1]]], [-0.002, roomOf(0.8, 5)], [0.001, roomOf(0.5, 6)]] as const
    for (const [part, taps] of sample(clocks, 2)) {
      const x = new Float32Array(size)
      x.set(through(reference, taps as [number, number][]).subarray(0, size))
      const mic = Float32Array.from(reference, (_, n) =>
        n * (1 + part) > size - 50 ? 0 : 0.1 * interpolator.read(x, size - 1, n * (1 + part)))
      const { warnings } = analyseSweep(reference, noisy(mic, 2e-5, 7), plan, rate, 1)
      expect(warnings)
        .toContainEqual(expect.saying(`at different speeds, by about 0.${Math.abs(part) === 0.001 ? 10 : 20} %`))
      expect(warnings).toContainEqual(expect.saying(`the ${part > 0 ? 'earlier' : 'later'} it seems`))
    }
    for (const f of sample([1000, 2500], 1))
      for (const apart of sample([0, 48, 240], 2)) {
        const side = (kind: 'low' | 'high', late: number) =>
          filterThrough(classical('linkwitz-riley', kind, 8, f, rate), through(reference, [[late, 1]]))
        const [woofer, tweeter] = [side('low', 0), side('high', apart)]
        const both = through(Float32Array.from(woofer, (v, n) => 0.1 * (v + tweeter[n]!)), roomOf(0.5, 9))
        expect(analyseSweep(reference, noisy(both, 2e-5, 8), plan, rate, 1).warnings).toEqual([])
      }
  })
  it('loudspeakers out of time, and what bangs in the hall, are no damage', () => {
    const low = (f: number) => classical('linkwitz-riley', 'low', 4, f, rate)
    const high = (f: number) => classical('linkwitz-riley', 'high', 4, f, rate)
    for (const f of sample([1400, 2500, 4000], 2))
      for (const apart of sample([0, 96, 240], 2)) {
        const late = new Float32Array(reference.length)
        late.set(reference.subarray(0, reference.length - apart), apart)
        const [woofer, tweeter] = [filterThrough(low(f), reference), filterThrough(high(f), late)]
        const mic = noisy(Float32Array.from(woofer, (v, n) => 0.1 * (v + tweeter[n]!)), 1e-5, 4)
        expect(refused(reference, mic), `${f} Hz, ${apart} late`).toBe('')
      }
    const gauss = gaussOf(8)
    for (const at of sample([40_000, 70_000, 110_000], 1)) {
      const bang = (n: number) => (n < at ? 0 : 0.02 * gauss() * 10 ** ((-3 * (n - at)) / rate / 0.5))
      const mic = noisy(through(reference, roomOf(0.5, 3)).map((v, n) => 0.1 * v + bang(n)), 1e-5, 6)
      expect(refused(reference, mic)).toBe('')
    }
  })
  it('another length, noise instead, an end that is missing, a start that is missing', () => {
    const longer = exponentialSweep({ ...plan, seconds: 3.2 }, rate)
    expect(refused(padded(1, longer))).toContain('another signal plays, or a sweep of another length')
    const gauss = gaussOf(5)
    expect(refused(Float32Array.from(reference, () => 0.1 * gauss()))).toContain('another signal')
    expect(refused(padded(1, sweep.subarray(0, 100_000)))).toContain('ends before it is over')
    expect(refused(reference.slice(0, lead + 120_000))).toContain('ends before it is over')
    expect(refused(reference.slice(lead + 30_000))).toContain('begins after')
    expect(refused(new Float32Array(reference.length))).toContain('silent')
  })
  it('a microphone that is silent, clips, clips before full scale, has gaps or comes twice', () => {
    const mic = noisy(reference, 1e-4, 3)
    expect(refused(reference, new Float32Array(reference.length))).toContain('microphone is silent')
    expect(refused(reference, mic.map(v => Math.max(-1, Math.min(1, 5 * v))))).toContain('clipped')
    expect(refused(reference, mic.map(v => Math.max(-0.3, Math.min(0.3, v))))).toContain('before full scale')
    expect(refused(reference, mic.map((v, n) => (n > 90_000 && n < 90_200 ? 0 : v)))).toContain('gap')
    expect(refused(reference, twice(mic, 90_000, 128))).toContain('twice')
  })
  it('what is whole is never refused: filtered, quiet, late, noisy references and rooms', () => {
    const random = seededRandom(77)
    for (let n = 0; n < cases(12, 4); n++) {
      const low = 20 + 60 * random()
      const filtered = n % 3 === 0
        ? Float32Array.from(filterThrough(classical('butterworth', 'high', 4, low, rate), reference))
        : reference
      const ref = noisy(filtered, 10 ** (-(60 + 30 * random()) / 20), n)
      const mic = noisy(through(reference, roomOf(0.3, n)).map(v => 0.1 * v), 10 ** (-70 / 20), 30 + n)
      expect(refused(ref, mic), `case ${n}`).toBe('')
      expect(Math.abs(findSweep(ref, plan, rate).start - lead)).toBeLessThan(4)
    }
  })
})
