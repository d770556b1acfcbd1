import fc from 'fast-check'
import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import { standardGrid, unity } from '../dsp'
import { scipy, worstError, type ComplexValues } from '../reference/scipy'
import { blockKinds, defineBlock } from './blocks'
import {
  Capability,
  compact,
  differences,
  holdParameter,
  misfits,
  parameterName,
  parametersOf,
  pathResponse,
  showParameter,
  stripResponse,
  valueAt,
  withValue,
  type BlockCapability,
  type Parameter,
} from './index'
import { feed, outputBlocks, processor, rigOf, routed, to, tuned } from './testRig'
import { wordsOf } from '../words'

const held = (path: string, wish: unknown) => holdParameter(processor, path, wish)

/** A wish of the right shape for any parameter, often far outside what the device can hold. */
function wishOf({ kind, capability, neutral }: Parameter): fc.Arbitrary<unknown> {
  const number = fc.double({ min: -200, max: 30_000, noNaN: true })
  if (kind.kind === 'crosspoint') return fc.option(number)
  if (kind.kind === 'fir')
    return fc.record({
      on: fc.boolean(),
      taps: fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { maxLength: 80 }),
    })
  if (Array.isArray(neutral))
    return fc.array(fc.double({ min: -20, max: 20, noNaN: true }), {
      minLength: neutral.length,
      maxLength: neutral.length,
    })
  const of = (f: (typeof kind.fields)[string]) => {
    if (f.kind === 'number') return number
    return f.kind === 'switch' ? fc.boolean() : fc.constantFrom(...f.options(capability).map(o => o.id))
  }
  const whole = kind.fields['']
  if (whole) return of(whole)
  return fc.record(Object.fromEntries(Object.entries(kind.fields).map(([name, f]) => [name, of(f)])))
}

describe('every block of the table', () => {
  const table = [...parametersOf(processor).values()]
  const oneOfEach = [...new Map(table.map(p => [p.kind.kind, p])).values()]
  it('is there: unlike blocks, each in its own file', () => {
    expect(oneOfEach.map(p => p.kind.kind).sort()).toEqual([...blockKinds.keys()].sort())
  })
  it.each(oneOfEach.map(p => [p.kind.kind, p] as const))(
    '%s: holding is idempotent, leaves no limit, and neutral is held as it is',
    (_, p) => {
      expect(held(p.path, p.neutral)).toEqual({ ok: true, value: p.neutral })
      fc.assert(
        fc.property(wishOf(p), (wish) => {
          const once = held(p.path, wish)
          if (!once.ok) {
            expect(wordsOf(once.why).length).toBeGreaterThan(10)
            return
          }
          expect(held(p.path, once.value)).toEqual(once)
          expect(typeof showParameter(processor, p.path, once.value)).toBe('string')
          for (const [name, field] of Object.entries(p.kind.fields)) {
            if (field.kind !== 'number' || once.value === null) continue
            const number = (name ? (once.value as Record<string, number>)[name] : once.value) as number
            const { min, max } = field.range(p.capability)
            expect(number).toBeGreaterThanOrEqual(min)
            expect(number).toBeLessThanOrEqual(max)
          }
        }),
      )
    },
  )
  it.each([
    ['/outputs/0/gain', 40, /−80\.0 dB to \+12\.0 dB is allowed/],
    ['/outputs/0/gain', 'loud', /must be a number/],
    ['/outputs/0/gain', Number.NaN, /must be a number/],
    ['/outputs/9/gain', 0, /no parameter/],
    ['/inputs/0/delay', 0, /no parameter/],
    ['/outputs/0/eq/7', null, /no parameter/],
    ['/outputs/0/mute', 1, /Mute/],
    ['/outputs/0/polarity', true, /normal or inverted/],
    [
      '/outputs/0/highPass',
      { on: true, family: 'linkwitz-riley', order: 3, frequency: 100 },
      /18 dB an octave is not offered.*12, 24, 48 are/,
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
    ['/outputs/0/fir', { on: true, taps: Array(65).fill(0) }, /65 coefficients are too many; this device takes 64/],
    ['/outputs/0/graphic', [0, 0], /has 3 bands, not 2/],
    [
      '/outputs/0/limiter',
      { on: true, detector: 'peak', threshold: 6, attack: 0, hold: 0, release: 0 },
      /threshold .*0\.0 dB is allowed/,
    ],
    ['/inputs/0/source', 'c', /there is no “c”; there are a, b/],
    ['/outputs/0/__proto__', 1, /no parameter/],
    ['nonsense', 1, /no parameter/],
  ])('%s = %j is refused with what is allowed', (path, value, why) => {
    expect(held(path, value)).toMatchObject({ ok: false, why: expect.saying(why) as string })
  })
})

describe('settings are flat', () => {
  it('a path that is missing is neutral, one that is unknown is kept', () => {
    expect(valueAt(processor, {}, '/outputs/0/gain')).toBe(0)
    expect(valueAt(processor, {}, '/outputs/0/nothing')).toBeUndefined()
    expect(compact(processor, { '/outputs/0/gain': 0, '/outputs/7/gain': -3 })).toEqual({ '/outputs/7/gain': -3 })
    expect(differences(processor, { '/outputs/7/gain': -3 }, {})).toEqual([])
    expect(withValue(withValue({}, '/outputs/0/gain', -3), '/outputs/0/gain', undefined)).toEqual({})
  })
  it('differences name each changed parameter once, in words and in signal order', () => {
    const found = differences(processor, routed, tuned)
    const words = found.map(
      d =>
        `${parameterName(processor, d.path)}: ${showParameter(processor, d.path, d.from)} → `
        + `${showParameter(processor, d.path, d.to)}`,
    )
    expect(words).toEqual([
      'Output 2 gain: 0.0 dB → −4.0 dB',
      'Output 2 polarity: normal → inverted',
      'Output 2 delay: 0.00 ms → 5.00 ms',
      'Output 2 high-pass: off → Linkwitz–Riley 24 dB/oct at 90 Hz',
      'Output 2 EQ band 3: off → peaking 2.5 kHz −5.0 dB Q 3.00',
      'Input 1 to output 2: 0.0 dB → −2.0 dB',
    ])
    const limiter = { on: true, detector: 'peak', threshold: -6, attack: 0.001, hold: 0, release: 0.1 }
    expect(
      differences(processor, { '/outputs/0/limiter': limiter }, { '/outputs/0/limiter': { ...limiter } }),
    ).toEqual([])
  })
  it('a device that comes back smaller keeps what fits and lists what does not', () => {
    const smaller: Capability = {
      ...processor,
      strips: processor.strips.map(s => ({ ...s, blocks: s.blocks.filter(b => b.kind !== 'delay') })),
    }
    const left = misfits(smaller, rigOf(tuned).devices.dsp!.settings)
    expect(left.map(m => m.path)).toEqual(['/outputs/1/delay'])
    expect(differences(smaller, tuned, {}).map(d => d.path)).not.toContain('/outputs/1/delay')
  })
})

describe('a capability', () => {
  it('is read as it is, with blocks of kinds that Kovrin does not know left alone', () => {
    expect(v.parse(Capability, processor)).toEqual(processor)
    const odd = {
      ...processor,
      strips: [
        { ...processor.strips[0]!, blocks: [{ kind: 'wobble', id: 'w', depth: 3 }] },
        ...processor.strips.slice(1),
      ],
    }
    const read = v.parse(Capability, odd)
    expect(read.strips[0]!.blocks).toEqual([{ kind: 'wobble', id: 'w', depth: 3 }])
    expect(parametersOf(read).has('/inputs/0/w')).toBe(false)
  })
  it('that names what is not there, or a block of wrong limits, is refused in words', () => {
    const says = (c: unknown) =>
      v
        .safeParse(Capability, c)
        .issues?.map(i => i.message)
        .join(' ')
    expect(says({ ...processor, outputs: [{ name: 'Out', kind: 'line', strip: 'outputs/9' }] })).toContain(
      'outputs/9, which is not there',
    )
    const bad = { kind: 'gain', id: 'gain', range: { min: 1, max: 0, step: 1 } }
    expect(says({ ...processor, strips: [{ ...processor.strips[0], blocks: [bad] }] })).toContain(
      'end above its start',
    )
  })
  it('with more crosspoints or parameters than can be kept in step is refused before anything is made of it', () => {
    const says = (c: unknown) => v.safeParse(Capability, c).issues?.map(i => i.message).join(' ')
    const strip = processor.strips[0]!
    const ids = Array.from({ length: 200 }, (_, n) => `s/${n}`)
    const strips = [...processor.strips, ...ids.map(id => ({ ...strip, id }))]
    const mixer = { ...processor.mixers[0]!, id: 'large', from: ids, to: ids }
    expect(says({ ...processor, strips, mixers: [mixer] })).toMatch(/200 into 200 strips: at most 64 into 64/)
    const small = { ...mixer, from: ids.slice(0, 64), to: ids.slice(0, 64) }
    const mixers = (count: number) => Array.from({ length: count }, (_, n) => ({ ...small, id: `m/${n}` }))
    expect(says({ ...processor, strips, mixers: [...processor.mixers, ...mixers(2)] })).toBeUndefined()
    expect(says({ ...processor, strips, mixers: mixers(5) })).toMatch(/parameters: at most 20000/)
  })
  it('a made-up kind of block needs its own file and one line of the table: everything else looks it up', () => {
    const tilt = defineBlock({
      kind: 'tilt',
      capability: v.strictObject({ kind: v.literal('tilt'), id: v.string(), count: v.optional(v.number()) }),
      value: v.pipe(v.number(), v.minValue(-6), v.maxValue(6)),
      name: () => 'Tilt',
      neutral: () => 0,
      hold: (_, wish) => Math.round(wish),
      show: value => `${value} dB an octave`,
      part: value => ({ gain: 10 ** (value / 20) }),
      stales: () => true,
      role: 'linear',
      mayRaise: true,
      fields: {},
    })
    blockKinds.set('tilt', tilt)
    try {
      const blocks = [...outputBlocks, { kind: 'tilt', id: 'tilt' } as BlockCapability]
      const capability = v.parse(Capability, {
        ...processor,
        strips: processor.strips.map(s => (s.id === 'outputs/1' ? { ...s, blocks } : s)),
      })
      expect(holdParameter(capability, '/outputs/1/tilt', 2.4)).toEqual({ ok: true, value: 2 })
      expect(parameterName(capability, '/outputs/1/tilt')).toBe('Output 2 tilt')
      expect(showParameter(capability, '/outputs/1/tilt', -3)).toBe('-3 dB an octave')
      const rig = rigOf(routed)
      const now = {
        ...rig,
        devices: { ...rig.devices, dsp: { capability, settings: { ...routed, '/outputs/1/tilt': 6 } } },
      }
      expect(
        pathResponse(now, feed, to, Float64Array.from([100])).re[0]! ** 2
        + pathResponse(now, feed, to, Float64Array.from([100])).im[0]! ** 2,
      ).toBeCloseTo(10 ** 0.6, 9)
    }
    finally {
      blockKinds.delete('tilt')
    }
  })
})

describe('what blocks do', () => {
  const alone = (settings: Record<string, unknown>) =>
    stripResponse(processor, rigOf(settings).devices.dsp!.settings, 'outputs/0', standardGrid)
  it('FIR coefficients answer as scipy.signal.freqz says', async () => {
    const taps = [0.5, -0.3, 0.2, 0.7, -0.1].map(Math.fround)
    const truth = await scipy<ComplexValues>('freqz', { b: taps, a: [1], rate: 96_000, frequencies: standardGrid })
    const got = alone({ '/outputs/0/fir': { on: true, taps } })
    expect(worstError(got.re, got.im, truth)).toBeLessThan(1e-12)
  })
  it('a graphic EQ is its peaking filters, and flat at 0 dB', async () => {
    const got = alone({ '/outputs/0/graphic': [0, -6, 0] })
    const peaking = alone({ '/outputs/0/eq/0': { on: true, type: 'peaking', frequency: 1000, gain: -6, q: 1.4 } })
    expect(worstError(got.re, got.im, { re: [...peaking.re], im: [...peaking.im] })).toBeLessThan(1e-12)
    expect(alone({ '/outputs/0/graphic': [0, 0, 0] })).toEqual(unity(standardGrid))
  })
})
