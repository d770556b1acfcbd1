import { beforeAll, describe, expect, it } from 'vitest'
import { loadFastFft, type FastFft } from '../dsp/fastFft'
import {
  applySections,
  exactSpectrum,
  hann,
  highShelf,
  logGrid,
  magnitude,
  peaking,
  phase,
  pinkNoise,
  realFft,
  standardGrid,
  unity,
  type Section,
} from '../dsp'
import { scipy } from '../reference/scipy'
import {
  createLive,
  createRing,
  measuredCurve,
  multiLevels,
  ringWriter,
  type Estimator,
  type LiveOptions,
} from './index'

const rate = 48_000
let fast: FastFft
beforeAll(async () => {
  fast = await loadFastFft()
})

function measure(ref: Float32Array, mic: Float32Array, options: Partial<LiveOptions> = {}) {
  const ring = createRing(rate, 2, 2 ** 19)
  const writer = ringWriter(ring)
  const live = createLive(ring, {
    reference: 0,
    microphone: 1,
    length: 'multi',
    overlap: 0.75,
    averaging: { kind: 'all' },
    spectrum: fast.spectrum,
    ...options,
  })
  for (let at = 0; at + 4800 <= ref.length; at += 4800) {
    writer.write([ref.subarray(at, at + 4800), mic.subarray(at, at + 4800)], 4800)
    live.poll()
  }
  const curve = measuredCurve(standardGrid)
  live.read(curve)
  return { live, curve }
}
const filtered = async (x: Float32Array, sections: readonly Section[]) =>
  Float32Array.from(await scipy<number[]>('sosfilt', { sections, x }))
const noise = (seconds: number, seed: number) => {
  const x = new Float32Array(rate * seconds)
  pinkNoise(rate, seed)(x)
  return x.map(v => v * 0.1)
}

describe('the fast transform', () => {
  it.each([32, 1024, 2 ** 12, 2 ** 16, 2 ** 18])(
    'of %d points agrees with scipy.fft.rfft to single precision',
    async (size) => {
      const x = noise(6, size).subarray(0, size)
      const out = fast.spectrum(size).forward(x, new Float64Array(size).fill(1))
      const truth = await scipy<{ re: number[], im: number[] }>('rfft', { x })
      const largest = truth.re.reduce((m, v, k) => Math.max(m, Math.hypot(v, truth.im[k]!)), 0)
      for (let k = 0; k <= size / 2; k++)
        expect(Math.hypot(out[2 * k]! - truth.re[k]!, out[2 * k + 1]! - truth.im[k]!) / largest).toBeLessThan(2e-6)
    },
  )
  it('goes back to where it came from, and leaves other sizes alone', () => {
    const a = fast.block(256)
    const b = fast.block(4096)
    const x = noise(1, 1)
    const there = Float32Array.from(a.forward(x.subarray(0, 256)))
    fast.spectrum(256).forward(x.subarray(300, 556), hann(256)) // others may use the same size in between
    b.forward(x.subarray(0, 4096))
    a.inverse(there).forEach((v, n) => expect(v).toBeCloseTo(x[n]!, 6))
    expect(() => fast.spectrum(100)).toThrow('powers of two')
  })
  it('windows as the exact one does', () => {
    const x = noise(1, 2)
    const w = hann(2048)
    const exact = exactSpectrum(2048).forward(x, w)
    const quick = fast.spectrum(2048).forward(x, w)
    for (let k = 0; k < exact.length; k++) expect(quick[k]).toBeCloseTo(exact[k]!, 4)
  })
})

describe('several block lengths at once', () => {
  it('cover the grid without a hole, each with 24 bins an octave or more, at 44.1, 48 and 96 kHz', () => {
    for (const sampleRate of [44_100, 48_000, 96_000]) {
      const levels = multiLevels('multi', sampleRate, standardGrid)
      const sum = new Float64Array(standardGrid.length)
      for (const l of levels)
        l.weights.forEach((w, k) => {
          sum[l.first + k]! += w
        })
      expect(Math.min(...sum)).toBeCloseTo(1, 9)
      expect(Math.max(...sum)).toBeCloseTo(1, 9)
      for (const l of levels)
        // half way down the fade into the neighbour
        expect(standardGrid[l.first]! * (2 ** (1 / 24) - 1) * 1.4).toBeGreaterThan(sampleRate / l.length)
      expect(levels.filter(l => l.role === 'main')).toHaveLength(1)
    }
  })
  it('a smooth system is measured within 0.1 dB and 1° from 20 Hz to 20 kHz, joints included', async () => {
    const sections = [
      peaking(90, 6, 1, rate),
      peaking(250, -5, 1.4, rate),
      peaking(1000, 4, 1, rate),
      highShelf(5000, -4, 0.7, rate),
    ]
    const x = noise(24, 3)
    const { curve } = measure(x, await filtered(x, sections))
    const exact = unity(standardGrid)
    applySections(exact, sections, rate)
    const got = magnitude(curve)
    const truth = magnitude(exact)
    const angle = phase(curve)
    const right = phase(exact)
    standardGrid.forEach((f, k) => {
      if (f < 20 || f > 20_000) return
      expect(Math.abs(got[k]! - truth[k]!), `${f.toFixed(1)} Hz`).toBeLessThan(0.1)
      expect(Math.abs(angle[k]! - right[k]!), `${f.toFixed(1)} Hz`).toBeLessThan(1)
      expect(curve.coherence![k]).toBeGreaterThan(0.97)
    })
  })
  it('answers fast above 1 kHz and waits below 31 Hz; nothing is kept before all is measured', () => {
    const x = noise(5, 4)
    const ring = createRing(rate, 2, 2 ** 19)
    const writer = ringWriter(ring)
    const live = createLive(ring, {
      reference: 0,
      microphone: 1,
      length: 'multi',
      overlap: 0.75,
      averaging: { kind: 'exponential', time: 1 },
      spectrum: fast.spectrum,
    })
    const feed = (from: number, to: number) => {
      for (let at = from * rate; at < to * rate; at += 480) {
        writer.write([x.subarray(at, at + 480), x.subarray(at, at + 480)], 480)
        live.poll()
      }
    }
    const at = (f: number) => {
      const c = measuredCurve(standardGrid)
      live.read(c)
      return c.coherence![standardGrid.findIndex(g => g >= f)]!
    }
    feed(0, 0.15)
    expect(at(4000)).toBeGreaterThan(0.99)
    expect(at(20)).toBe(0)
    expect(live.complete).toBe(false)
    feed(0.15, Math.ceil(live.completeAfter * 10) / 10 + 0.1)
    expect(live.complete).toBe(true)
    live.restart()
    expect(at(4000)).toBe(0) // shown still, but not trusted
    const shown = measuredCurve(standardGrid)
    live.read(shown)
    expect(Math.hypot(shown.re[standardGrid.length >> 1]!, shown.im[standardGrid.length >> 1]!)).toBeCloseTo(1, 2)
  })
  it('noise at the microphone falls out of H1, raises Hg by what it adds, and H2 by twice that', () => {
    const x = noise(12, 5)
    const y = noise(12, 6)
    const mic = x.map((v, n) => v + y[n]!)
    const level = (estimator: Estimator) => {
      const { curve } = measure(x, mic, { estimator, length: 4096 })
      const m = magnitude(curve).filter((_, k) => standardGrid[k]! > 300 && standardGrid[k]! < 8000)
      return m.reduce((a, b) => a + b) / m.length
    }
    // Bendat & Piersol 2010, Random Data, ch. 9: |H2| = |H1|/γ², here γ² = 1/2
    expect(Math.abs(level('H1'))).toBeLessThan(0.2)
    expect(Math.abs(level('Hg') - 3.01)).toBeLessThan(0.2)
    expect(Math.abs(level('H2') - 6.02)).toBeLessThan(0.2)
  })
  it.each(['hann', 'blackman-harris'] as const)('the %s window is scipy’s', async (id) => {
    const { windows } = await import('../dsp')
    const truth = await scipy<number[]>('window', { name: id.replace('-', ''), size: 512 })
    windows[id].make(512).forEach((v, n) => expect(v).toBeCloseTo(truth[n]!, 12))
  })
  it('blocks of real transforms agree with the exact ones for the deconvolution of long blocks', () => {
    const size = 2 ** 15
    const x = noise(1, 7).subarray(0, size)
    const grid = logGrid(3, 20, 20_000)
    const re = new Float64Array(size / 2 + 1)
    const im = new Float64Array(size / 2 + 1)
    realFft(size).forward(x, re, im)
    const quick = fast.block(size).forward(x)
    for (const f of grid) {
      const k = Math.round((f / rate) * size)
      expect(Math.hypot(quick[2 * k]! - re[k]!, quick[2 * k + 1]! - im[k]!)).toBeLessThan(
        1e-4 * Math.hypot(re[k]!, im[k]!) + 1e-5,
      )
    }
  })
})
