import { describe, expect, it } from 'vitest'
import { scipy } from '../reference/scipy'
import {
  applyGainAndDelay,
  applySections,
  classical,
  magnitude,
  peaking,
  phase,
  pinkNoise,
  realFft,
  seededRandom,
  standardGrid,
  unity,
  type Curve,
  type Section,
} from '../dsp'
import { wrapDegrees } from '../units'
import {
  createDualChannel,
  createLive,
  createRing,
  findArrival,
  impulseResponse,
  levelOf,
  measuredCurve,
  ringReader,
  ringWriter,
  smooth,
  trusted,
  type LiveOptions,
} from './index'

const rate = 48_000

/**
 * `input` (a power of two long, taken as periodic) through gain, delay and filters, exactly, in the frequency
 * domain.
 */
function throughSystem(input: Float32Array, sections: Section[], gain: number, delay: number): Float32Array {
  const n = input.length
  const fft = realFft(n)
  const re = new Float64Array(n / 2 + 1)
  const im = new Float64Array(n / 2 + 1)
  fft.forward(input, re, im)
  const curve: Curve = { frequencies: re.map((_, k) => (k * rate) / n), re, im, coherence: null }
  applySections(curve, sections, rate)
  applyGainAndDelay(curve, gain, delay)
  const out = new Float32Array(n)
  fft.inverse(re, im, out)
  return out
}

const noise = (frames: number, seed = 5) => {
  const x = new Float32Array(frames)
  pinkNoise(rate, seed)(x)
  return x.map(v => v * 0.1)
}

const options: LiveOptions = {
  reference: 0,
  microphone: 1,
  length: 131_072,
  overlap: 0.75,
  averaging: { kind: 'blocks', count: 64 },
}

/** Runs a live measurement over two channels that arrive in small blocks, as from a sound card. */
function run(
  ref: Float32Array,
  mic: Float32Array,
  o: LiveOptions,
  prepare: (live: ReturnType<typeof createLive>, frame: number) => void = () => {},
) {
  const ring = createRing(rate, 2, 2 ** 19)
  const writer = ringWriter(ring)
  const live = createLive(ring, o)
  for (let at = 0; at < ref.length; at += 4096) {
    writer.write([ref.subarray(at, at + 4096), mic.subarray(at, at + 4096)], Math.min(4096, ref.length - at))
    prepare(live, at)
    live.poll()
  }
  const curve = measuredCurve(standardGrid)
  live.read(curve)
  return { live, curve }
}

describe('a known system measured by the whole engine', () => {
  const sections = [...classical('butterworth', 'high', 2, 45, rate), peaking(1200, 6, 2, rate)]
  const gain = 0.5
  const delay = 0.0312437 // 1499.7 samples
  const x = noise(2 ** 21)
  const y = throughSystem(x, sections, gain, delay)

  it('finds the arrival within 0.01 ms, then reads within 0.05 dB and 0.5° from 20 Hz to 20 kHz', () => {
    const { live, curve } = run(x, y, options, (l, frame) => {
      if (frame !== 4096 * 40) return
      const found = l.findArrival()!
      expect(Math.abs(found.time - delay)).toBeLessThan(1e-5)
      expect(found.polarity).toBe(1)
      l.setDelay(delay)
    })
    const truth = unity(standardGrid)
    applySections(truth, sections, rate)
    applyGainAndDelay(truth, gain, 0)
    const band = standardGrid.map((f, k) => (f >= 20 && f <= 20_000 ? k : -1)).filter(k => k >= 0)
    const db = magnitude(curve)
    const trueDb = magnitude(truth)
    const angle = phase(curve)
    const trueAngle = phase(truth)
    for (const k of band) {
      expect(Math.abs(db[k]! - trueDb[k]!), `magnitude at ${standardGrid[k]} Hz`).toBeLessThan(0.05)
      expect(Math.abs(wrapDegrees(angle[k]! - trueAngle[k]!)), `phase at ${standardGrid[k]} Hz`).toBeLessThan(0.5)
      // the high-pass itself spreads the lowest sounds beyond the window
      expect(curve.coherence![k]).toBeGreaterThan(0.995)
    }
    expect(Math.abs(live.trackArrival()!.time - delay)).toBeLessThan(1e-5)
    expect(live.gaps).toEqual({ dropped: 0, lost: 0, poor: 0 })
  })

  it('tells a turned polarity', () => {
    const turned = throughSystem(x, [], -1, 0.01)
    const found = findArrival(x.subarray(0, 2 ** 16), turned.subarray(0, 2 ** 16), rate)!
    expect(found.polarity).toBe(-1)
    expect(Math.abs(found.time - 0.01)).toBeLessThan(1e-5)
  })

  it('finds no arrival in unrelated noise, nor in silence', () => {
    expect(findArrival(x.subarray(0, 2 ** 16), noise(2 ** 16, 99), rate)).toBeNull()
    expect(findArrival(new Float32Array(1024), new Float32Array(1024), rate)).toBeNull()
    expect(() => findArrival(new Float32Array(1024), new Float32Array(512), rate)).toThrow(/length/)
  })

  it('keeps holes that the machine makes out of the average, and counts them', () => {
    const torn = x.slice()
    const tornMic = y.slice()
    for (let at = 150_000; at < x.length; at += 300_000) {
      torn.fill(0, at, at + 441)
      tornMic.fill(0, at, at + 441)
    }
    const { live, curve } = run(torn, tornMic, { ...options, length: 16_384 }, (l, frame) => {
      if (frame === 0) l.setDelay(delay)
    })
    expect(live.gaps.dropped).toBeGreaterThan(0)
    const at1k = standardGrid.findIndex(f => f >= 1000)
    expect(curve.coherence![at1k]).toBeGreaterThan(0.99)
  })

  it('a restart forgets the old system within one block, counted from when the change was fed in', () => {
    const half = 2 ** 19
    const o = { ...options, length: 16_384 }
    const changed = y.slice()
    const late = Math.round(delay * rate)
    for (let n = half + late; n < changed.length; n++) changed[n]! *= 0.25
    const upTo = half + 16_384 + late
    const { curve } = run(x.subarray(0, upTo), changed.subarray(0, upTo), o, (l, frame) => {
      if (frame === 0) l.setDelay(delay)
      if (frame === half) l.restart()
    })
    const at1k = standardGrid.findIndex(f => f >= 999)
    const truth = unity(standardGrid)
    applySections(truth, sections, rate)
    applyGainAndDelay(truth, gain * 0.25, 0)
    expect(Math.abs(magnitude(curve)[at1k]! - magnitude(truth)[at1k]!)).toBeLessThan(0.5)
  })
})

describe('spectra against scipy.signal', () => {
  it.each([['blocks', { kind: 'blocks', count: 1000 }]] as const)(
    'csd, welch and coherence with the same window and overlap (%s)',
    async (_, averaging) => {
      const length = 1024
      const hop = 256
      const x = noise(length + hop * 60)
      const random = seededRandom(11)
      const y = x.map((v, n) => 0.7 * v + 0.3 * (x[n - 5] ?? 0) + 0.05 * (random() - 0.5))
      const average = createDualChannel({ sampleRate: rate, length, hop, averaging })
      for (let at = 0; at + length <= x.length; at += hop)
        average.push(x.subarray(at, at + length), y.subarray(at, at + length))
      const truth = await scipy<{ re: number[], im: number[], coherence: number[] }>('spectra', {
        x,
        y,
        rate,
        length,
        overlap: length - hop,
      })
      for (let k = 1; k < length / 2; k++) {
        const xx = average.sxx[k]!
        expect(
          Math.hypot(average.sxyRe[k]! / xx - truth.re[k]!, average.sxyIm[k]! / xx - truth.im[k]!),
        ).toBeLessThan(1e-9)
        const coherence = (average.sxyRe[k]! ** 2 + average.sxyIm[k]! ** 2) / (xx * average.syy[k]!)
        expect(Math.abs(coherence - truth.coherence[k]!)).toBeLessThan(1e-9)
      }
    },
  )

  it('exponential averaging settles to 63 % of a step in its time constant', () => {
    const length = 256
    const hop = 64
    const time = 0.2
    const average = createDualChannel({ sampleRate: rate, length, hop, averaging: { kind: 'exponential', time } })
    const block = noise(length)
    const loud = block.map(v => v * 2)
    for (let n = 0; n < 3000; n++) average.push(block, block)
    const before = average.sxx[10]!
    for (let n = 0; n < Math.round((time * rate) / hop); n++) average.push(loud, loud)
    expect((average.sxx[10]! - before) / (3 * before)).toBeCloseTo(1 - Math.exp(-1), 2)
    expect(() =>
      createDualChannel({ sampleRate: rate, length, hop, averaging: { kind: 'blocks', count: 0 } }),
    ).toThrow(/at least one block/)
  })

  it('the impulse response has its peak at the delay and its gain', () => {
    const x = noise(2 ** 16)
    const y = throughSystem(x, [], 0.5, 100 / rate)
    const average = createDualChannel({
      sampleRate: rate,
      length: 8192,
      hop: 4096,
      averaging: { kind: 'blocks', count: 64 },
    })
    for (let at = 0; at + 8192 <= x.length; at += 4096)
      average.push(x.subarray(at, at + 8192), y.subarray(at, at + 8192))
    const response = impulseResponse(average)
    const peak = response.reduce((best, v, n) => (Math.abs(v) > Math.abs(response[best]!) ? n : best), 0)
    expect(peak).toBe(100)
    expect(response[100]).toBeCloseTo(0.5, 1)
  })
})

describe('reading a curve', () => {
  const ripple = unity(standardGrid)
  for (let k = 0; k < ripple.re.length; k++) ripple.re[k] = 1 + 0.5 * Math.cos((2 * Math.PI * k) / 4)
  it('smoothing keeps a flat curve flat, keeps power, and 1/48 changes nothing', () => {
    for (const part of [24, 12, 6, 3]) {
      expect(Math.max(...magnitude(smooth(unity(standardGrid), part)).map(Math.abs))).toBeLessThan(1e-9)
      const meanPower = 10 * Math.log10(1 + 0.25 / 2)
      if (part <= 6) expect(magnitude(smooth(ripple, part))[240]).toBeCloseTo(meanPower, 1)
    }
    expect(smooth(ripple, 48)).toBe(ripple)
  })
  it('trust follows coherence, and data without coherence is believed', () => {
    expect(trusted(ripple).every(Boolean)).toBe(true)
    const half = { ...ripple, coherence: ripple.re.map((_, k) => k % 2) }
    expect(trusted(half).slice(0, 4)).toEqual([false, true, false, true])
  })
  it('a full-scale sine reads 0 dBFS peak and -3.01 dBFS RMS', () => {
    const level = levelOf(
      Float32Array.from({ length: 48_000 }, (_, n) => Math.sin((2 * Math.PI * 1000 * n) / rate)),
    )
    expect(level.peak).toBeCloseTo(0, 3)
    expect(level.rms).toBeCloseTo(-3.0103, 3)
  })
})

describe('the ring', () => {
  it('hands on what was written, refuses what is gone or not yet there, and survives its counter wrapping', () => {
    const ring = createRing(rate, 1, 8192)
    const writer = ringWriter(ring)
    Atomics.store(new Int32Array(ring.buffer), 0, 2 ** 31 - 1000) // after 12 hours at 48 kHz
    const reader = ringReader(ring)
    const out = new Float32Array(100)
    for (let n = 0; n < 100; n++) writer.write([Float32Array.from({ length: 100 }, (_, k) => n * 100 + k)], 100)
    expect(reader.written()).toBe(10_000)
    expect(reader.read(0, 9900, out)).toBe(true)
    expect([out[0], out[99]]).toEqual([9900, 9999])
    expect(reader.read(0, 9901, out)).toBe(false)
    expect(reader.read(0, 0, out)).toBe(false)
    expect(() => createRing(rate, 1, 1000)).toThrow(/power of two/)
  })
})
