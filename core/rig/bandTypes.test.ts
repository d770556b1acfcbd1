import { describe, expect, it } from 'vitest'
import {
  allPass,
  applySections,
  bandPassSection,
  filterKindIds,
  firstAllPass,
  logGrid,
  peaking,
  qOfWidth,
  resonantPass,
  unity,
  type Curve,
  type FilterKind,
  type Section,
} from '../dsp'
import { blockKinds, cookbookQ, deviceQ, type Band, type BandCapability } from './index'

const rate = 48_000
const grid = logGrid(12, 20, 20_000)
const range = { min: 0.1, max: 100, step: 0.01 }
const capability: BandCapability = {
  kind: 'band',
  id: 'eq',
  types: filterKindIds,
  frequency: { min: 20, max: 20_000, step: 1 },
  gain: { min: -24, max: 24, step: 0.1 },
  q: range,
}
const kind = blockKinds.get('band')!
const set = (more: Partial<Band>): Band => ({ on: true, type: 'peaking', frequency: 800, gain: 0, q: 2, ...more })
const responseOf = (sections: readonly Section[]): Curve => {
  const curve = unity(grid)
  applySections(curve, sections, rate)
  return curve
}
const part = (value: Band, c = capability) => kind.part(value, c, rate).sections ?? []

describe('what an EQ band can be', () => {
  it.each<[FilterKind, Section]>([
    ['band-pass', bandPassSection(800, 2, rate)],
    ['high-pass', resonantPass('high', 800, 2, rate)],
    ['low-pass', resonantPass('low', 800, 2, rate)],
    ['all-pass', allPass(800, 2, rate)],
    ['all-pass-1', firstAllPass(800, rate)],
  ])('%s acts whatever its gain, as the filter of that name', (type, section) => {
    expect(part(set({ type, gain: -9 }))).toEqual([section])
    expect(part(set({ type, on: false }))).toEqual([])
  })
  it('says of itself what counts: gain and Q only where they do anything', () => {
    expect(kind.show(set({ gain: -3 }), capability)).toBe('peaking 800 Hz −3.0 dB Q 2.00')
    expect(kind.show(set({ type: 'notch' }), capability)).toBe('notch 800 Hz Q 2.00')
    expect(kind.show(set({ type: 'all-pass-1' }), capability)).toBe('all-pass-1 800 Hz')
  })
})

describe('a device whose Q is that of the resonance', () => {
  const resonance = { ...capability, width: 'resonance' as const }
  it('keeps its poles at every boost, and a cut is the boost’s mirror', () => {
    const poles = [3, 9, 15].map(gain => part(set({ gain }), resonance)[0]!.slice(3))
    for (const p of poles) p.forEach((v, k) => expect(v).toBeCloseTo(poles[0]![k]!, 12))
    const both = responseOf([...part(set({ gain: 9 }), resonance), ...part(set({ gain: -9 }), resonance)])
    both.re.forEach((v, k) => expect(Math.hypot(v - 1, both.im[k]!)).toBeLessThan(1e-9))
  })
  it('draws the filter of that width by the convention of the same name', () => {
    const q = 2
    const octaves = (2 / Math.LN2) * Math.asinh(1 / (2 * q))
    const same = peaking(800, 9, qOfWidth(octaves, 'resonance-analogue', 800, 9, rate), rate)
    part(set({ gain: 9, q }), resonance)[0]!.forEach((v, k) => expect(v).toBeCloseTo(same[k]!, 9))
  })
  it('is converted to the Cookbook’s Q and back', () => {
    for (const gain of [-12, 0, 7]) expect(cookbookQ(deviceQ(3, gain, resonance), gain, resonance)).toBeCloseTo(3, 12)
    expect(deviceQ(3, -12, capability)).toBe(3)
  })
})
