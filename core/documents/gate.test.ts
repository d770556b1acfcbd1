import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ropewalkDevices } from '../../standins/ropewalk/devices'
import { ropewalk as hall } from '../../standins/ropewalk/site'
import { logGrid, magnitude } from '../dsp'
import { cases } from '../reference/cases'
import {
  feedOnly, parametersOf, pathResponse, valueOf, type Band, type Fir, type Parameter, type Pass,
} from '../rig'
import {
  applyEdit, contentOf, mostLouder, rigOf, risesNow, sayRise, unagreed, type Documents, type Rise,
} from './index'

const plain: Documents = {
  ...hall.documents,
  ...Object.fromEntries(ropewalkDevices.map(d => [`settings/${d.id}`, d.delivered])),
}
type Values = Record<string, unknown>
const withSettings = (documents: Documents, values: Values, device = 'processor'): Documents =>
  Object.entries(values).reduce((d, [path, value]) =>
    applyEdit(d, { document: `settings/${device}`, path, new: value }), documents)
const rises = (before: Documents, after: Documents) =>
  risesNow(after, rigOf(before, 'draft'), rigOf(after, 'draft'))
const step = (was: Values, is: Values, device = 'processor') => {
  const before = withSettings(plain, was, device)
  return rises(before, withSettings(before, is, device))
}

// the processor's outputs 1 and 2 drive the two bands of Main L, whose sheet plays from 55 and from 700 Hz
const horn = { on: true, family: 'linkwitz-riley', order: 4, frequency: 1400 }
const bandOf = (gain: number, more: Partial<Band> = {}): Band =>
  ({ on: true, type: 'peaking', frequency: 1000, gain, q: 1, ...more })
const kinds = (list: readonly Rise[]) => [...new Set(list.map(r => r.kind))].sort()

describe('what a step does at the loudspeakers', () => {
  it.each<[string, Values, Values, string[]]>([
    ['a compression driver’s high-pass off', { '/outputs/1/highPass': horn },
      { '/outputs/1/highPass': { ...horn, on: false } }, ['below', 'louder']],
    ['its slope from 24 to 12 dB/oct', { '/outputs/1/highPass': horn },
      { '/outputs/1/highPass': { ...horn, order: 2 } }, ['below', 'louder']],
    ['its corner an octave down', { '/outputs/1/highPass': horn },
      { '/outputs/1/highPass': { ...horn, frequency: 700 } }, ['below', 'louder']],
    ['a band of −24 dB off', { '/outputs/0/eq/3': bandOf(-24) }, { '/outputs/0/eq/3': bandOf(-24, { on: false }) },
      ['louder']],
    ['a band of +12 dB on', {}, { '/outputs/0/eq/3': bandOf(12) }, ['louder']],
    ['a low-pass of Q 0.7 at Q 30', { '/outputs/1/eq/3': bandOf(0, { type: 'low-pass', frequency: 9000, q: 0.7 }) },
      { '/outputs/1/eq/3': bandOf(0, { type: 'low-pass', frequency: 9000, q: 30 }) }, ['louder']],
    ['a limiter off', { '/outputs/1/limiter': { on: true, detector: 'rms', threshold: -20, attack: 0.01, hold: 0,
      release: 1 } }, { '/outputs/1/limiter': { on: false, detector: 'rms', threshold: -20, attack: 0.01, hold: 0,
      release: 1 } }, ['limit']],
    ['coefficients that sum to 4', {}, { '/outputs/0/fir': { on: true, taps: [2, 2] } satisfies Fir }, ['louder']],
    ['31 graphic bands at +4 dB, which add up', {}, { '/inputs/0/graphic': Array.from({ length: 31 }, () => 4) },
      ['below', 'louder']],
    ['−60 to +12 dB', { '/outputs/0/gain': -60 }, { '/outputs/0/gain': 12 }, ['louder']],
    ['a crosspoint that is connected at +12 dB', {}, { '/matrix/3/0': 12 }, ['louder']],
    ['three settings of +3 dB each', {}, { '/outputs/0/gain': 3, '/inputs/0/gain': 3, '/outputs/0/eq/5': bandOf(3) },
      ['louder']],
  ])('%s is told', (_, was, is, expected) => {
    const told = step(was, is)
    expect(kinds(told)).toEqual(expected)
    for (const rise of told) expect(sayRise(rise)).toMatch(/^(Main|Sub|Front|Delay|Balcony|Foyer|System)/)
  })
  it.each<[string, Values, Values]>([
    ['+6 dB', { '/outputs/0/gain': -10 }, { '/outputs/0/gain': -4 }],
    ['anything quieter', { '/outputs/0/gain': 0 }, { '/outputs/0/gain': -60 }],
    ['a mute that opens', { '/outputs/0/mute': true }, { '/outputs/0/mute': undefined }],
    ['a crosspoint that is connected at 0 dB', {}, { '/matrix/3/0': 0 }],
    ['a delay', {}, { '/outputs/0/delay': 0.02 }],
    ['a limiter that holds less', {}, { '/outputs/1/limiter': { on: true, detector: 'rms', threshold: -20,
      attack: 0.01, hold: 0, release: 1 } }],
    ['a cut and a gain that make up for one another', { '/outputs/0/gain': 0 },
      { '/outputs/0/gain': 8, '/inputs/0/gain': -8 }],
  ])('%s goes without a question', (_, was, is) => {
    // the other feeds do not pass by the input that is turned down
    const only = { ...was, ...Object.fromEntries([1, 2, 3].map(n => [`/matrix/${n}/0`, undefined])) }
    expect(step(only, is)).toEqual([])
  })
  it('judges what is muted or led nowhere by what it would do', () => {
    const muted = step({ '/outputs/0/mute': true, '/outputs/0/gain': -20 }, { '/outputs/0/gain': 0 })
    expect(kinds(muted)).toEqual(['louder'])
    const idle = step({}, { '/outputs/15/gain': 12 })
    expect(kinds(idle)).toEqual(['louder'])
  })
  it('counts what an amplifier does behind a limiter against the sheet', () => {
    const limiter = { on: true, detector: 'rms', threshold: -6, attack: 0.01, hold: 0, release: 1 }
    const before = withSettings(plain, { '/outputs/1/limiter': limiter })
    const after = withSettings(before, { '/outputs/1/gain': 5 }, 'amp-a')
    const [rise] = rises(before, after)
    expect(rise).toMatchObject({ kind: 'limit', limit: { allowed: 32 } })
    expect(sayRise(rise!)).toMatch(/Main L, high band: its limit rises by \+5.0 dB, to \d+\.\d V; its sheet allows 32/)
  })
  it('is agreed to by name and by how much', () => {
    const told = step({ '/outputs/0/gain': -20 }, { '/outputs/0/gain': 0 })
    expect(unagreed(told, told)).toEqual([])
    expect(unagreed(told, told.map(r => ({ ...r, by: r.by! - 1 })))).toEqual(told)
    expect(unagreed(told, [])).toEqual(told)
  })
})

/** A random value that the device may hold. */
const anyValue = (p: Parameter, seed: (n: number) => number): unknown => {
  const { capability: c } = p as unknown as { capability: Record<string, { min: number, max: number }> }
  const within = (key: string) => c[key]!.min + seed(1) * (c[key]!.max - c[key]!.min)
  switch (p.kind.kind) {
    case 'gain': return within('range')
    case 'crosspoint': return seed(1) < 0.3 ? null : within('range')
    case 'polarity': return seed(1) < 0.5 ? 'normal' : 'inverted'
    case 'delay': return seed(1) * 0.01
    case 'pass': return { on: seed(1) < 0.7, family: 'butterworth', order: 1 + Math.floor(seed(1) * 4),
      frequency: 20 * 1000 ** seed(1) } satisfies Pass
    case 'band': return bandOf(within('gain'), { on: seed(1) < 0.7, frequency: 20 * 1000 ** seed(1),
      q: 0.3 + 10 * seed(1) ** 3 })
    case 'graphic': return (p.neutral as number[]).map(() => Math.round(24 * seed(1) - 12) / 2)
    default: return p.neutral
  }
}

describe('random steps', () => {
  const table = [...parametersOf(contentOf(plain, 'device', 'processor')!.capability).values()]
  const from = contentOf(plain, 'wiring')!.feeds.test!.from
  const drives = Object.entries(contentOf(plain, 'wiring')!.drives)
  const at = logGrid(96, 20, 20_000)
  it('that go without a question are no louder by over 6 dB anywhere in a band, on a grid of their own', () => {
    fc.assert(fc.property(fc.infiniteStream(fc.double({ min: 0, max: 1, noNaN: true })), fc.nat(), (stream, pick) => {
      const seed = () => stream.next().value as number
      const settings = rigOf(plain, 'draft').devices.processor!.settings
      const edits = Array.from({ length: 1 + Math.floor(seed() * 3) }, (_, n) => {
        const p = table[(pick * 31 + n * 977 + Math.floor(seed() * table.length)) % table.length]!
        return [p.path, seed() < 0.2 ? valueOf(settings, p) : anyValue(p, seed)] as const
      })
      const after = withSettings(plain, Object.fromEntries(edits))
      if (rises(plain, after).length) return
      const [was, is] = [rigOf(plain, 'draft'), rigOf(after, 'draft')]
      for (const [key, output] of drives) {
        const source = contentOf(plain, 'source', key.split(':')[0]!)!
        const sheet = contentOf(plain, 'sheet', source.elements[0]!.sheet)!
        const band = sheet.bands.find(b => b.id === key.split(':')[2])!
        const [then, now] = [was, is].map(rig => magnitude(pathResponse(rig, from, output, at), -150))
        then!.forEach((level, k) => {
          const isIn = at[k]! >= band.low && at[k]! <= band.high
          // what was silent and is connected is opened, not raised
          if (isIn && level > -149) expect(now![k]! - level).toBeLessThan(mostLouder + 0.3)
        })
      }
    }), { numRuns: cases(600, 60) })
  })
  it('feeding one source alone asks nothing', () => {
    const rig = rigOf(plain, 'draft')
    const crossings = feedOnly(rig, from, [{ device: 'processor', channel: 4 }])
    const after = withSettings(plain, Object.fromEntries(crossings.map(c => [c.path, c.value])))
    expect(rises(plain, after)).toEqual([])
  })
})
