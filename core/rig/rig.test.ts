import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { applySections, filterInPlace, magnitude, peaking, realFft, standardGrid, unity } from '../dsp'
import * as v from 'valibot'
import { scipy, worstError, type ComplexValues } from '../reference/scipy'
import {
  Capability,
  channelResponse,
  channelSections,
  differences,
  holdParameter,
  listParameters,
  neutralSettings,
  parameterName,
  pathResponse,
  predict,
  readParameter,
  routeDelay,
  routes,
  routeSounds,
  Settings,
  showParameter,
  sourceResponse,
  staleness,
  writeParameter,
  type Rig,
} from './index'

const gain = { min: -80, max: 12, step: 0.1 }
const frequency = { min: 20, max: 20_000, step: 0.1 }
const orders = { 'butterworth': [1, 2, 3, 4], 'linkwitz-riley': [2, 4, 8] }
const capability: Capability = {
  version: 1,
  model: 'Test processor',
  kind: 'processor',
  sampleRate: 96_000,
  latency: 0.001,
  inputs: { count: 2, channel: { gain } },
  outputs: {
    count: 3,
    channel: {
      gain,
      delay: { min: 0, max: 0.1, step: 1 / 96_000 },
      highPass: { orders, frequency },
      lowPass: { orders, frequency },
      eq: {
        bands: 4,
        types: ['peaking', 'low-shelf', 'high-shelf'],
        frequency,
        gain: { min: -24, max: 12, step: 0.1 },
        q: { min: 0.3, max: 30, step: 0.01 },
      },
    },
  },
  matrix: { min: -80, max: 10, step: 0.5 },
}
const amplifier: Capability = {
  ...capability,
  model: 'Test amplifier',
  kind: 'amplifier',
  latency: 0.0005,
  inputs: { count: 3, channel: { gain } },
  outputs: { count: 3, channel: { gain } },
  matrix: null,
}

const feed = { device: 'interface', channel: 0 }
const to = { device: 'amp', channel: 1 }
const rigOf = (processor: Settings, amp = neutralSettings(amplifier)): Rig => ({
  devices: { dsp: { capability, settings: processor }, amp: { capability: amplifier, settings: amp } },
  wires: [
    { from: feed, to: { device: 'dsp', channel: 0 } },
    ...[0, 1, 2].map(channel => ({ from: { device: 'dsp', channel }, to: { device: 'amp', channel } })),
  ],
})
const set = (s: Settings, ...edits: [string, Parameters<typeof writeParameter>[2]][]) =>
  edits.reduce((now, [path, value]) => writeParameter(now, path, value), s)
const routed = set(neutralSettings(capability), ['/matrix/0/1', 0])
const tuned = set(
  routed,
  ['/outputs/1/highPass', { on: true, family: 'linkwitz-riley', order: 4, frequency: 90 }],
  ['/outputs/1/eq/2', { on: true, type: 'peaking', frequency: 2500, gain: -5, q: 3 }],
  ['/outputs/1/gain', -4],
  ['/outputs/1/delay', 0.005],
  ['/outputs/1/turned', true],
  ['/matrix/0/1', -2],
)

describe('what a device can hold', () => {
  it('neutral settings and the capability pass their own checks', () => {
    expect(v.is(Settings, neutralSettings(capability))).toBe(true)
    expect(v.is(Capability, capability)).toBe(true)
  })
  it('every listed parameter can be read, held as it is, and written back', () => {
    for (const path of listParameters(capability)) {
      const value = readParameter(tuned, path)
      expect(holdParameter(capability, path, value), path).toMatchObject({ ok: true })
      expect(writeParameter(tuned, path, value)).toEqual(tuned)
    }
  })
  it('values land on the device’s steps, and holding twice changes nothing', () => {
    expect(holdParameter(capability, '/outputs/0/gain', -3.14)).toEqual({ ok: true, value: -3.1 })
    fc.assert(
      fc.property(fc.double({ min: 0, max: 0.1, noNaN: true }), (t) => {
        const once = holdParameter(capability, '/outputs/0/delay', t) as { value: number }
        expect(Math.abs(once.value - t)).toBeLessThanOrEqual(0.5 / 96_000 + 1e-12)
        expect(holdParameter(capability, '/outputs/0/delay', once.value)).toEqual({ ok: true, value: once.value })
      }),
    )
  })
  it.each([
    ['/outputs/0/gain', 40, /−80\.0 dB to \+12\.0 dB is allowed/],
    ['/outputs/0/gain', 'loud', /must be a number/],
    ['/outputs/0/gain', Number.NaN, /must be a number/],
    ['/outputs/9/gain', 0, /no output 10/],
    ['/inputs/0/delay', 0, /no Delay on its inputs/],
    ['/outputs/0/eq/7', null, /no EQ band 8/],
    ['/outputs/0/mute', 1, /Mute/],
    [
      '/outputs/0/highPass',
      { on: true, family: 'linkwitz-riley', order: 3, frequency: 100 },
      /18 dB an octave is not offered for linkwitz-riley; 12, 24, 48 are/,
    ],
    [
      '/outputs/0/highPass',
      { on: true, family: 'bessel', order: 2, frequency: 100 },
      /no bessel; it has butterworth, linkwitz-riley/,
    ],
    [
      '/outputs/0/highPass',
      { on: true, family: 'butterworth', order: 2, frequency: 5 },
      /20 Hz to 20 kHz is allowed/,
    ],
    ['/outputs/0/eq/0', { on: true, type: 'notch', frequency: 100, gain: 0, q: 1 }, /no notch/],
    ['/outputs/0/eq/0', { on: true }, /EQ band 1/],
    ['/outputs/0/__proto__', 1, /is not a parameter/],
    ['nonsense', 1, /Parameters look like/],
  ])('%s = %j is refused with what is allowed', (path, value, why) => {
    expect(holdParameter(capability, path, value)).toMatchObject({ ok: false, why: expect.stringMatching(why) })
  })
  it('differences name each changed parameter once, in words', () => {
    const found = differences(capability, routed, tuned)
    expect(
      found.map(d => `${parameterName(d.path)}: ${showParameter(d.path, d.from)} → ${showParameter(d.path, d.to)}`),
    ).toEqual([
      'Output 2 gain: 0.0 dB → −4.0 dB',
      'Output 2 polarity: normal → turned',
      'Output 2 delay: 0.00 ms → 5.00 ms',
      'Output 2 high-pass: off → Linkwitz–Riley 24 dB/oct at 90 Hz',
      'Output 2 EQ band 3: off → peaking 2.5 kHz −5.0 dB Q 3.00',
      'Input 1 to output 2: 0.0 dB → −2.0 dB',
    ])
    expect(differences(capability, tuned, tuned)).toEqual([])
  })
})

describe('path response', () => {
  it('equals scipy’s filters with gain, polarity, delays and latencies applied', async () => {
    const got = pathResponse(rigOf(tuned), feed, to, standardGrid)
    const filters = await scipy<ComplexValues>('butterworth', {
      order: 2,
      kind: 'high',
      f: 90,
      rate: 96_000,
      frequencies: standardGrid,
    })
    const [b0, b1, b2, a1, a2] = peaking(2500, -5, 3, 96_000)
    const bell = await scipy<ComplexValues>('freqz', {
      b: [b0, b1, b2],
      a: [1, a1, a2],
      rate: 96_000,
      frequencies: standardGrid,
    })
    const truth = { re: [] as number[], im: [] as number[] }
    standardGrid.forEach((f, k) => {
      const h = [
        { re: filters.re[k]!, im: filters.im[k]! },
        { re: filters.re[k]!, im: filters.im[k]! },
        { re: bell.re[k]!, im: bell.im[k]! },
      ]
      const angle = -2 * Math.PI * f * 0.0065
      const start = { re: -(10 ** (-6 / 20)) * Math.cos(angle), im: -(10 ** (-6 / 20)) * Math.sin(angle) }
      const all = h.reduce((a, b) => ({ re: a.re * b.re - a.im * b.im, im: a.re * b.im + a.im * b.re }), start)
      truth.re.push(all.re)
      truth.im.push(all.im)
    })
    expect(worstError(got.re, got.im, truth)).toBeLessThan(1e-8)
  })
  it('equals running the sections over an impulse', () => {
    const impulse = new Float64Array(2 ** 16)
    impulse[0] = 1
    const sections = channelSections(tuned.outputs[1]!, 96_000)
    filterInPlace(impulse, sections)
    const re = new Float64Array(2 ** 15 + 1)
    const im = new Float64Array(2 ** 15 + 1)
    realFft(2 ** 16).forward(impulse, re, im)
    const curve = unity(re.map((_, k) => (k * 96_000) / 2 ** 16))
    applySections(curve, sections, 96_000)
    expect(worstError(curve.re, curve.im, { re: [...re], im: [...im] })).toBeLessThan(1e-9)
  })
  it('is silent when muted, unrouted or not cabled, and two routes add up', () => {
    const silent = (rig: Rig) => pathResponse(rig, feed, to, standardGrid).re.every(r => r === 0)
    expect(silent(rigOf(neutralSettings(capability)))).toBe(true)
    expect(silent(rigOf(set(tuned, ['/outputs/1/mute', true])))).toBe(true)
    expect(silent({ ...rigOf(tuned), wires: [] })).toBe(true)
    const both = rigOf(set(routed, ['/matrix/1/1', 0]))
    both.wires.push({ from: feed, to: { device: 'dsp', channel: 1 } })
    // two equal coherent: +6.02 dB
    expect(magnitude(pathResponse(both, feed, to, standardGrid))[100]).toBeCloseTo(6.02, 2)
  })
  it('refuses a rig whose cables run in a circle, and unknown devices', () => {
    const ring = rigOf(set(routed, ['/matrix/1/1', 0]))
    ring.wires.push({ from: { device: 'amp', channel: 1 }, to: { device: 'dsp', channel: 1 } })
    expect(() => pathResponse(ring, feed, to, standardGrid)).toThrow(/circle/)
    expect(() => pathResponse(ring, feed, { device: 'ghost', channel: 0 }, standardGrid)).toThrow(/no device ghost/)
  })
  it('routes name every hop, their delay and whether they sound', () => {
    const rig = rigOf(tuned)
    const [route] = routes(rig, feed, to)
    expect(route).toEqual([
      { device: 'dsp', input: 0, output: 1 },
      { device: 'amp', input: 1, output: 1 },
    ])
    expect(routeDelay(rig, route!)).toBeCloseTo(0.0065, 9)
    expect(routeSounds(rig, route!)).toBe(true)
    expect(routeSounds(rigOf(set(tuned, ['/inputs/0/mute', true])), route!)).toBe(false)
  })
})

describe('a take and its settings', () => {
  const outputs = [to]
  const then = { dsp: tuned, amp: neutralSettings(amplifier) }
  const measured = sourceResponse(rigOf(tuned), feed, outputs, standardGrid) // a loudspeaker and room of ratio 1
  it('the prediction is the measurement that the new settings would give', () => {
    const next = set(
      tuned,
      ['/outputs/1/eq/0', { on: true, type: 'low-shelf', frequency: 200, gain: 6, q: 0.7 }],
      ['/outputs/1/delay', 0.012],
      ['/outputs/1/turned', false],
    )
    const predicted = predict(measured, rigOf(next), then, feed, outputs)
    const truth = sourceResponse(rigOf(next), feed, outputs, standardGrid)
    expect(worstError(predicted.re, predicted.im, { re: [...truth.re], im: [...truth.im] })).toBeLessThan(1e-9)
  })
  it('a muted or unrouted source keeps its prediction and does not go stale', () => {
    const quiet = rigOf(set(tuned, ['/outputs/1/mute', true], ['/matrix/0/1', null]))
    expect(staleness(quiet, then, feed, outputs)).toEqual([])
    const predicted = predict(measured, quiet, then, feed, outputs)
    expect(worstError(predicted.re, predicted.im, { re: [...measured.re], im: [...measured.im] })).toBeLessThan(
      1e-9,
    )
  })
  it('goes stale by what is on its path and by nothing else', () => {
    const other = rigOf(set(tuned, ['/outputs/0/gain', -10], ['/inputs/1/gain', 3], ['/matrix/0/0', -1]))
    expect(staleness(other, then, feed, outputs)).toEqual([])
    const changed = staleness(
      rigOf(set(tuned, ['/outputs/1/highPass', { ...tuned.outputs[1]!.highPass!, frequency: 100 }])),
      then,
      feed,
      outputs,
    )
    expect(changed.map(d => [d.device, parameterName(d.path)])).toEqual([['dsp', 'Output 2 high-pass']])
    expect(
      staleness(rigOf(tuned, set(neutralSettings(amplifier), ['/inputs/1/gain', -3])), then, feed, outputs),
    ).toHaveLength(1)
  })
  it('a gain and delay of a channel give the comb they should in a sum (1 ms: first null at 500 Hz, '
    + 'references.md)', () => {
    const late = channelResponse({ ...tuned.outputs[0]!, delay: 0.001 }, 96_000, Float64Array.from([500, 1000]))
    expect(Math.hypot(1 + late.re[0]!, late.im[0]!)).toBeLessThan(1e-9)
    expect(20 * Math.log10(Math.hypot(1 + late.re[1]!, late.im[1]!))).toBeCloseTo(6.02, 2)
  })
})
