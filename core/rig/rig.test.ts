import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import {
  applyGainAndDelay,
  applySections,
  filterInPlace,
  magnitude,
  multiply,
  peaking,
  realFft,
  standardGrid,
  unity,
  type Curve,
} from '../dsp'
import { scipy, worstError, type ComplexValues } from '../reference/scipy'
import {
  isStale,
  partOf,
  pathMap,
  pathResponse,
  predict,
  predictSum,
  routeDelay,
  routeSounds,
  routeTo,
  silencedBy,
  snapshotOf,
  staleness,
  stripResponse,
  type Measured,
  type Rig,
  type Settings,
} from './index'
import { canonical } from '../units'
import { amplifier, feed, processor, rigOf, routed, to, tuned } from './testRig'

const same = (a: Curve, b: Curve) => worstError(a.re, a.im, { re: [...b.re], im: [...b.im] })
const response = (rig: Rig, output = to) => pathResponse(rig, feed, output, standardGrid)

describe('path response', () => {
  it('equals scipy’s filters with gain, polarity, delays and latencies applied', async () => {
    const got = response(rigOf(tuned))
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
    const curve = (c: ComplexValues): Curve => ({
      ...unity(standardGrid),
      re: Float64Array.from(c.re),
      im: Float64Array.from(c.im),
    })
    const truth = multiply(multiply(curve(filters), curve(filters)), curve(bell))
    applyGainAndDelay(truth, -(10 ** (-6 / 20)), 0.0065)
    expect(same(got, truth)).toBeLessThan(1e-8)
  })
  it('equals running the sections over an impulse', () => {
    const impulse = new Float64Array(2 ** 16)
    impulse[0] = 1
    const section = peaking(2500, -5, 3, 96_000)
    filterInPlace(impulse, [section])
    const re = new Float64Array(2 ** 15 + 1)
    const im = new Float64Array(2 ** 15 + 1)
    realFft(2 ** 16).forward(impulse, re, im)
    const bins = re.map((_, k) => (k * 96_000) / 2 ** 16)
    const curve = stripResponse(
      processor,
      { '/outputs/0/eq/0': { on: true, type: 'peaking', frequency: 2500, gain: -5, q: 3 } },
      'outputs/0',
      bins,
    )
    expect(worstError(curve.re, curve.im, { re: [...re], im: [...im] })).toBeLessThan(1e-9)
    const again = unity(bins)
    applySections(again, [section], 96_000)
    expect(same(curve, again)).toBe(0)
  })
  it('is silent when muted, unrouted or not cabled, and two routes add up', () => {
    const silent = (rig: Rig) => response(rig).re.every(r => r === 0)
    expect(silent(rigOf({}))).toBe(true)
    expect(silent(rigOf({ ...tuned, '/outputs/1/mute': true }))).toBe(true)
    expect(silent({ ...rigOf(tuned), wiring: { ...rigOf(tuned).wiring, cables: {} } })).toBe(true)
    const both = rigOf({ ...routed, '/matrix/1/1': 0 })
    both.wiring = { ...both.wiring, cables: { ...both.wiring.cables, 'dsp:1': feed } }
    expect(magnitude(response(both))[100]).toBeCloseTo(6.02, 2) // two equal coherent: +6.02 dB
  })
  it('follows the connector that a strip listens to', () => {
    const rig = rigOf({ ...routed, '/inputs/0/source': 'b' })
    expect(response(rig).re.every(r => r === 0)).toBe(true)
    const moved = { ...rig, wiring: { ...rig.wiring, cables: { ...rig.wiring.cables, 'dsp:2': feed } } }
    expect(magnitude(response(moved))[100]).toBeCloseTo(0, 9)
  })
  it('a chain of nine matrix devices, each fully connected, is answered at once (8^9 routes)', () => {
    const wide = 8
    const list = Array.from({ length: wide }, (_, n) => n)
    const capability = {
      ...processor,
      inputs: list.map(n => ({ name: `${n}`, kind: 'line' as const })),
      outputs: list.map(n => ({ name: `${n}`, kind: 'line' as const, strip: `outputs/${n}` })),
      strips: [
        ...list.map(n => ({ id: `inputs/${n}`, name: `In ${n}`, from: { port: n }, blocks: [] })),
        ...list.map(n => ({ id: `outputs/${n}`, name: `Out ${n}`, from: { mixer: 'matrix' }, blocks: [] })),
      ],
      mixers: [{ ...processor.mixers[0]!, from: list.map(n => `inputs/${n}`), to: list.map(n => `outputs/${n}`) }],
    }
    const settings: Settings = Object.fromEntries(
      list.flatMap(i => list.map(o => [`/matrix/${i}/${o}`, -18.5] as const)),
    )
    const devices = Object.fromEntries(Array.from({ length: 9 }, (_, d) => [`d${d}`, { capability, settings }]))
    const cables = Object.fromEntries(
      Array.from({ length: 9 }, (_, d) =>
        list.map(n => [`d${d}:${n}`, d ? { device: `d${d - 1}`, channel: n } : { ...feed, channel: 0 }] as const),
      ).flat(),
    )
    const rig: Rig = { devices, wiring: { cables, drives: {} } }
    const end = { device: 'd8', channel: 0 }
    const level = magnitude(pathResponse(rig, feed, end, Float64Array.from([1000])))[0]!
    expect(level).toBeCloseTo(9 * (20 * Math.log10(8) - 18.5), 6)
    expect(pathMap(rig, feed, end).points.size).toBe(8 * (8 * 8) + 8)
    expect(routeTo(rig, feed, end)).toHaveLength(18)
  })
  it('refuses cables that run in a circle; what is not there is silent', () => {
    const ring = rigOf({ ...routed, '/matrix/1/1': 0 })
    const cables = { ...ring.wiring.cables, 'dsp:1': { device: 'amp', channel: 1 } }
    expect(() => response({ ...ring, wiring: { ...ring.wiring, cables } })).toThrow(/circle/)
    expect(response(ring, { device: 'ghost', channel: 0 }).re.every(r => r === 0)).toBe(true)
  })
  it('a route names every step, its delay, whether it sounds and what silences it', () => {
    const rig = rigOf(tuned)
    const route = routeTo(rig, feed, to)!
    expect(route.map(s => `${s.device} ${s.strip}`)).toEqual([
      'dsp inputs/0',
      'dsp outputs/1',
      'amp inputs/1',
      'amp outputs/1',
    ])
    expect(routeDelay(rig, route)).toBeCloseTo(0.0065, 9)
    // coefficients delay by the place of the largest of them, at the rate of the device
    const taps = Array.from({ length: 49 }, (_, n) => (n === 48 ? 1 : 0.01))
    const filtered = rigOf({ ...tuned, '/outputs/1/fir': { on: true, taps } })
    expect(routeDelay(filtered, route)).toBeCloseTo(0.0065 + 48 / 96_000, 9)
    expect(routeSounds(rig, route)).toBe(true)
    const muted = rigOf({ ...tuned, '/inputs/0/mute': true })
    expect(routeSounds(muted, route)).toBe(false)
    expect(
      routeTo(muted, feed, to)!
        .flatMap(s => silencedBy(muted, s))
        .map(p => p.name),
    ).toEqual(['Input 1 mute'])
    expect(routeTo({ ...rig, wiring: { ...rig.wiring, cables: {} } }, feed, to)).toBeNull()
  })
})

const thenOf = (rig: Rig, source = 'top') => partOf(rig, feed, source)
const measuredWith = (rig: Rig): Measured => ({
  curve: response(rig),
  delay: 0,
  then: thenOf(rig),
  source: 'top',
  only: null,
}) // a loudspeaker and room of ratio 1

describe('a take and its snapshot', () => {
  it('the prediction is the measurement that the new settings would give', () => {
    const next = rigOf({
      ...tuned,
      '/outputs/1/eq/0': { on: true, type: 'low-shelf', frequency: 200, gain: 6, q: 0.7 },
      '/outputs/1/delay': 0.012,
      '/outputs/1/polarity': 'normal',
    })
    const { curve, unforeseen } = predict(measuredWith(rigOf(tuned)), next, [])
    expect(same(curve, response(next))).toBeLessThan(1e-9)
    expect(unforeseen).toEqual([])
  })
  it('a muted or unrouted source keeps its prediction and does not go stale', () => {
    const quiet = rigOf({ ...tuned, '/outputs/1/mute': true, '/matrix/0/1': null })
    const take = measuredWith(rigOf(tuned))
    expect(isStale(staleness(take.then, quiet, 'top'))).toBe(false)
    expect(same(predict(take, quiet, []).curve, take.curve)).toBeLessThan(1e-9)
  })
  it('goes stale by what is on its path and by nothing else', () => {
    const then = thenOf(rigOf(tuned))
    const changed = (settings: Settings, amp: Settings = {}) =>
      staleness(then, rigOf({ ...tuned, ...settings }, amp), 'top').settings.map(
        m => `${m.device} ${m.parameter.name}`,
      )
    expect(changed({ '/outputs/0/gain': -10, '/inputs/1/gain': 3, '/matrix/0/0': -1 })).toEqual([])
    expect(
      changed({ '/outputs/1/highPass': { on: true, family: 'linkwitz-riley', order: 4, frequency: 100 } }),
    ).toEqual(['dsp Output 2 high-pass'])
    expect(changed({}, { '/inputs/1/gain': -3 })).toEqual(['amp Input 2 gain'])
    // a band that does nothing may change without making anything stale
    expect(changed({ '/outputs/1/eq/0': { on: true, type: 'peaking', frequency: 500, gain: 0, q: 2 } })).toEqual([])
  })
  it('goes stale when cables or drives are others, with the reason in words', () => {
    const now = rigOf(tuned)
    const then = thenOf(now)
    const recabled = {
      ...now,
      wiring: { ...now.wiring, cables: { ...now.wiring.cables, 'amp:1': { device: 'dsp', channel: 0 } } },
    }
    expect(staleness(then, recabled, 'top').wiring).toEqual([
      'What feeds amp input 2 is dsp output 1, not dsp output 2.',
    ])
    const redriven = { ...now, wiring: { ...now.wiring, drives: { 'top:0:full': { device: 'amp', channel: 0 } } } }
    expect(staleness(then, redriven, 'top').wiring).toEqual([
      'What drives its cabinets is amp output 1, not amp output 2.',
    ])
    expect(staleness(then, { ...now, devices: {} }, 'top').wiring).toHaveLength(2)
  })
  it('a device that came back otherwise throws nowhere', () => {
    const now = rigOf(tuned)
    const smaller = {
      ...processor,
      strips: processor.strips.slice(0, 4),
      outputs: processor.outputs.slice(0, 2),
      mixers: [],
    }
    const changed = {
      ...now,
      devices: { ...now.devices, dsp: { capability: smaller, settings: now.devices.dsp!.settings } },
    }
    expect(() => staleness(thenOf(now), changed, 'top')).not.toThrow()
    expect(() => predict(measuredWith(now), changed, [])).not.toThrow()
  })
  it('equal contents have equal text, whatever the order in which they were made', () => {
    const settings = Object.entries(tuned)
    fc.assert(
      fc.property(fc.shuffledSubarray(settings, { minLength: settings.length }), (shuffled) => {
        const text = (s: Settings) =>
          canonical(snapshotOf(thenOf(rigOf(s)), t => String(t.length).padStart(64, '0')))
        expect(
          text({
            ...Object.fromEntries(shuffled),
            '/outputs/1/eq/1': { on: false, type: 'peaking', frequency: 250, gain: 0, q: 1.4 },
          }),
        ).toBe(text(tuned))
      }),
    )
  })
})

describe('a source on several outputs', () => {
  const paired: Settings = { '/matrix/0/0': 0, '/matrix/0/2': 0 }
  const outputs = [
    { device: 'amp', channel: 0 },
    { device: 'amp', channel: 2 },
  ]
  /** Two different ways through the air. */
  const air = [0.5, 0.0291].map((gain, k) => {
    const curve = unity(standardGrid)
    applyGainAndDelay(curve, gain + k * 0.3, [0.02, 0.0237][k]!)
    return curve
  })
  const alone = (rig: Rig, n: number) => multiply(response(rig, outputs[n]), air[n]!)
  const together = (rig: Rig): Curve => {
    const [a, b] = [alone(rig, 0), alone(rig, 1)]
    return { ...a, re: a.re.map((r, k) => r + b.re[k]!), im: a.im.map((i, k) => i + b.im[k]!) }
  }
  const then = rigOf(paired)
  const whole: Measured = {
    curve: together(then),
    delay: 0,
    then: thenOf(then, 'pair'),
    source: 'pair',
    only: null,
  }
  const parts = outputs.map((only, n): Measured => {
    const curve = alone(then, n)
    applyGainAndDelay(curve, 1, -0.021) // as it is kept: its delay taken out
    return { curve, delay: 0.021, then: thenOf(then, 'pair'), source: 'pair', only }
  })
  it('what is common to its outputs is predicted exactly from the take of all', () => {
    const next = rigOf({
      ...paired,
      '/inputs/0/gain': -3,
      '/outputs/0/highPass': { on: true, family: 'butterworth', order: 4, frequency: 40 },
      '/outputs/2/highPass': { on: true, family: 'butterworth', order: 4, frequency: 40 },
    })
    const { curve, unforeseen } = predict(whole, next, staleness(whole.then, next, 'pair').settings)
    expect(unforeseen).toEqual([])
    expect(same(curve, together(next))).toBeLessThan(1e-9)
  })
  it('what changes one output alone is left out of it and named, never guessed', () => {
    const next = rigOf({
      ...paired,
      '/inputs/0/gain': -3,
      '/outputs/2/delay': 0.005,
      '/outputs/2/polarity': 'inverted',
    })
    const { curve, unforeseen } = predict(whole, next, staleness(whole.then, next, 'pair').settings)
    expect(unforeseen.map(m => m.parameter.name)).toEqual(['Output 3 polarity', 'Output 3 delay'])
    expect(same(curve, together(rigOf({ ...paired, '/inputs/0/gain': -3 })))).toBeLessThan(1e-9)
  })
  it('takes of each output alone sum to what both together will read', () => {
    const next = rigOf({
      ...paired,
      '/outputs/2/delay': 0.005,
      '/outputs/2/polarity': 'inverted',
      '/outputs/0/gain': -2,
    })
    const sum = predictSum(parts, next, 0)
    expect(same(sum, together(next))).toBeLessThan(1e-9)
    expect(() => predictSum([], next, 0)).toThrow(/no take/)
  })
  it('a gain and delay of one output give the comb they should in the sum (1 ms: first null at 500 Hz, '
    + 'references.md)', () => {
    const f = Float64Array.from([500, 1000])
    const late = stripResponse(amplifier, {}, 'outputs/0', f)
    const shifted = stripResponse(processor, { '/outputs/0/delay': 0.001 }, 'outputs/0', f)
    expect(Math.hypot(late.re[0]! + shifted.re[0]!, late.im[0]! + shifted.im[0]!)).toBeLessThan(1e-9)
    expect(20 * Math.log10(Math.hypot(late.re[1]! + shifted.re[1]!, late.im[1]! + shifted.im[1]!))).toBeCloseTo(
      6.02,
      2,
    )
  })
})
