import type { BesselNorm, Family, FilterKind } from '../../dsp'
import {
  OcaFilterFIR, OcaMute, OcaPolarity, OcaSwitch, OfferedDynamics, OfferedFilterClassical, OfferedFilterParametric,
  SteppedDelay, SteppedGain,
} from '../ocp1'
import type { BlockId } from '../../rig'
import { mapping, named, rangeFrom, stepsOf, type Mapping, type RangeOf, type ReadObject } from './mapping'

// Numbers of the standard (AES70-2018); from 128 on a maker's own.
export const shapes: Readonly<Record<FilterKind, number>> = {
  'peaking': 1, 'low-shelf': 2, 'high-shelf': 3, 'low-pass': 4, 'high-pass': 5, 'band-pass': 6, 'all-pass': 7,
  'notch': 8, 'all-pass-1': 128,
}
const noShape = 0
const families: Readonly<Record<Family, number>> = { 'butterworth': 1, 'bessel': 2, 'linkwitz-riley': 4 }
const sides = { high: 1, low: 2 } as const
const detectors = { rms: 1, peak: 2 } as const
const norms: Readonly<Record<BesselNorm, number>> = { magnitude: 1, delay: 2, phase: 3 }
const widths = { 'half-gain': 1, 'resonance': 2 } as const
const mutes = { muted: 1, open: 2 } as const
const polarities = { normal: 1, inverted: 2 } as const
const limits = 2
const noFunction = 0
/** Highest order of a classical filter that is computed. */
const mostOrder = 8

/** Steps where a device tells none: fine ones, for it rounds itself. */
const fine = { level: 0.01, frequency: 0.01, q: 0.001, time: 1e-6 }
const both = ({ min, max }: { min: number, max: number }) => [min, max] as const
const numbers = (x: unknown) => x as number

/** What all that is one level has in common. */
const level = {
  oca: SteppedGain,
  limits: (c: { range: RangeOf }) => ({ Gain: both(c.range) }),
  facts: (c: { range: RangeOf }) => ({ GetSteps: stepsOf(SteppedGain, { Gain: c.range.step }) }),
}
const levelRange = (read: ReadObject) => rangeFrom(read, 'Gain', fine.level)

const gain = mapping<'gain'>({
  ...level,
  properties: ['Gain'],
  spread: value => ({ Gain: value }),
  gather: cells => numbers(cells.Gain),
  describe: (read) => {
    const range = levelRange(read)
    return range && { kind: 'gain', range }
  },
})

/** A point of a mixer: a gain that is switched off where nothing is connected. */
const crosspoint = mapping<'crosspoint'>({
  ...level,
  properties: ['Gain', 'Enabled'],
  rest: { Gain: 0 },
  // what is not connected keeps its level in the device
  spread: value => value === null ? { Enabled: false } : { Gain: value, Enabled: true },
  gather: cells => cells.Enabled === false ? null : numbers(cells.Gain),
  describe: (read) => {
    const range = levelRange(read)
    return range && { kind: 'crosspoint', range }
  },
})

const mute = mapping<'mute'>({
  oca: OcaMute,
  properties: ['State'],
  spread: value => ({ State: value ? mutes.muted : mutes.open }),
  gather: cells => cells.State === mutes.muted,
  limits: () => ({}),
  facts: () => ({}),
  describe: () => ({ kind: 'mute' }),
})

const polarity = mapping<'polarity'>({
  oca: OcaPolarity,
  properties: ['State'],
  spread: value => ({ State: polarities[value] }),
  gather: cells => cells.State === polarities.inverted ? 'inverted' : 'normal',
  limits: () => ({}),
  facts: () => ({}),
  describe: () => ({ kind: 'polarity' }),
})

const delay = mapping<'delay'>({
  oca: SteppedDelay,
  properties: ['DelayTime'],
  spread: value => ({ DelayTime: value }),
  gather: cells => numbers(cells.DelayTime),
  limits: c => ({ DelayTime: both(c.range) }),
  facts: c => ({ GetSteps: stepsOf(SteppedDelay, { DelayTime: c.range.step }) }),
  describe: (read) => {
    const range = rangeFrom(read, 'DelayTime', fine.time)
    return range && { kind: 'delay', range }
  },
})

/** Orders by family: as a class of our own tells them, else all from its least to its most that there can be. */
function ordersOf(told: [number, number[]][] | undefined, order: { min: number, max: number } | undefined) {
  const all = Array.from({ length: mostOrder }, (_, n) => n + 1)
    .filter(n => order && n >= order.min && n <= order.max)
  const entries = (Object.entries(families) as [Family, number][]).map(([family, code]) => {
    const offered = told?.find(([shape]) => shape === code)?.[1]
    return [family, told ? offered : all.filter(n => family !== 'linkwitz-riley' || n % 2 === 0)] as const
  })
  return Object.fromEntries(entries.filter(([, orders]) => orders?.length)) as Record<Family, number[]>
}

const pass = mapping<'pass'>({
  oca: OfferedFilterClassical,
  properties: ['Frequency', 'Shape', 'Order', 'Enabled'],
  also: ['Passband'],
  spread: ({ on, family, order, frequency }) =>
    ({ Frequency: frequency, Shape: families[family], Order: order, Enabled: on }),
  gather: cells => ({
    on: cells.Enabled !== false,
    family: named(families, cells.Shape) ?? 'butterworth',
    order: numbers(cells.Order),
    frequency: numbers(cells.Frequency),
  }),
  limits: ({ frequency, orders }, cells) => {
    const offered = orders[named(families, cells.Shape) ?? 'butterworth'] ?? []
    return { Frequency: both(frequency), Order: [Math.min(...offered), Math.max(...offered)] }
  },
  facts: c => ({
    GetPassband: [sides[c.side]],
    GetSteps: stepsOf(OfferedFilterClassical, { Frequency: c.frequency.step }),
    GetOrders: [Object.entries(c.orders).map(([family, orders]) => [families[family as Family], orders])],
    GetBesselNorm: [c.bessel ? norms[c.bessel] : 0],
  }),
  describe: (read) => {
    const frequency = rangeFrom(read, 'Frequency', fine.frequency)
    const side = named(sides, read.cells.Passband)
    if (!frequency || !side || !named(families, read.cells.Shape)) return null
    const orders = ordersOf(read.facts.GetOrders?.[0] as [number, number[]][] | undefined, read.limits.Order)
    if (!Object.keys(orders).length) return null
    const bessel = named(norms, read.facts.GetBesselNorm?.[0])
    return { kind: 'pass', side, orders, frequency, ...(bessel && { bessel }) }
  },
})

const usualShapes = Object.values(shapes).filter(n => n < 128)
const band = mapping<'band'>({
  oca: OfferedFilterParametric,
  properties: ['Frequency', 'WidthParameter', 'Shape', 'InbandGain', 'Enabled'],
  spread: ({ on, type, frequency, gain, q }, _, has) => ({
    Frequency: frequency,
    WidthParameter: q,
    InbandGain: gain,
    // what cannot be switched off has a shape that does nothing
    ...(has.has('Enabled') ? { Shape: shapes[type], Enabled: on } : { Shape: on ? shapes[type] : noShape }),
  }),
  gather: (cells, { types }) => ({
    on: cells.Enabled !== false && cells.Shape !== noShape,
    type: named(shapes, cells.Shape) ?? types[0]!,
    frequency: numbers(cells.Frequency),
    gain: numbers(cells.InbandGain),
    q: numbers(cells.WidthParameter),
  }),
  limits: c => ({ Frequency: both(c.frequency), WidthParameter: both(c.q), InbandGain: both(c.gain) }),
  facts: c => ({
    GetSteps: stepsOf(OfferedFilterParametric, {
      Frequency: c.frequency.step, WidthParameter: c.q.step, InbandGain: c.gain.step,
    }),
    GetShapes: [c.types.map(type => shapes[type])],
    GetWidthLaw: [c.width ? widths[c.width] : 0],
  }),
  describe: (read) => {
    const frequency = rangeFrom(read, 'Frequency', fine.frequency)
    const gain = rangeFrom(read, 'InbandGain', fine.level)
    const q = rangeFrom(read, 'WidthParameter', fine.q)
    const told = read.facts.GetShapes?.[0] as number[] | undefined
    const { Shape } = read.cells
    if (!frequency || !gain || !q || !(Shape === noShape || named(shapes, Shape))) return null
    const types = (told ?? usualShapes).flatMap(code => named(shapes, code) ?? [])
    const width = named(widths, read.facts.GetWidthLaw?.[0])
    return types.length ? { kind: 'band', types, frequency, gain, q, ...(width && { width }) } : null
  },
})

const fir = mapping<'fir'>({
  oca: OcaFilterFIR,
  properties: ['Coefficients', 'Enabled'],
  also: ['Length'],
  spread: ({ on, taps }) => ({ Coefficients: taps, Enabled: on }),
  gather: cells => ({ on: cells.Enabled !== false, taps: cells.Coefficients as number[] }),
  limits: c => ({ Length: [0, c.length] }),
  facts: () => ({}),
  describe: ({ limits }) => limits.Length && limits.Length.max > 0 ? { kind: 'fir', length: limits.Length.max } : null,
})

/** Volts that a threshold is told against: full scale, as no other is known. */
const fullScale = 1
const limiter = mapping<'limiter'>({
  oca: OfferedDynamics,
  properties: ['AttackTime', 'HoldTime', 'ReleaseTime', 'DetectorLaw', 'Threshold', 'Function', 'Enabled'],
  spread: ({ on, detector, threshold, attack, hold, release }) => ({
    AttackTime: attack,
    HoldTime: hold,
    ReleaseTime: release,
    DetectorLaw: detectors[detector],
    Threshold: { value: threshold, ref: fullScale },
    Function: limits,
    Enabled: on,
  }),
  gather: cells => ({
    on: cells.Enabled !== false && cells.Function === limits,
    detector: named(detectors, cells.DetectorLaw) ?? 'peak',
    threshold: (cells.Threshold as { value: number }).value,
    attack: numbers(cells.AttackTime),
    hold: numbers(cells.HoldTime),
    release: numbers(cells.ReleaseTime),
  }),
  limits: c => ({
    Threshold: both(c.threshold), AttackTime: both(c.attack), HoldTime: both(c.hold), ReleaseTime: both(c.release),
  }),
  facts: c => ({
    GetSteps: stepsOf(OfferedDynamics, {
      Threshold: c.threshold.step, AttackTime: c.attack.step, HoldTime: c.hold.step, ReleaseTime: c.release.step,
    }),
    GetDetectorLaws: [c.detectors.map(d => detectors[d])],
    GetLookAhead: [c.lookAhead ?? -1],
    GetTriggered: [false],
    GetDynamicGain: [0],
  }),
  describe: (read) => {
    // a threshold in volts of another device says nothing about its full scale: only a class of ours does
    const told = read.facts.GetDetectorLaws?.[0] as number[] | undefined
    if (!told || ![limits, noFunction].includes(numbers(read.cells.Function))) return null
    const threshold = rangeFrom(read, 'Threshold', fine.level)
    const attack = rangeFrom(read, 'AttackTime', fine.time)
    const hold = rangeFrom(read, 'HoldTime', fine.time)
    const release = rangeFrom(read, 'ReleaseTime', fine.time)
    if (!threshold || !attack || !hold || !release) return null
    const lookAhead = numbers(read.facts.GetLookAhead?.[0] ?? -1)
    return {
      kind: 'limiter',
      detectors: told.flatMap(code => named(detectors, code) ?? []),
      threshold, attack, hold, release,
      ...(lookAhead >= 0 && { lookAhead }),
    }
  },
})

/** Which connector is listened to: where each position leads stands in the signal paths, not in the object. */
const select = mapping<'select'>({
  oca: OcaSwitch,
  properties: ['Position'],
  also: ['PositionNames'],
  spread: (value, { options }) => ({ Position: options.findIndex(o => o.id === value) }),
  gather: (cells, { options }) => options[numbers(cells.Position)]?.id ?? options[0]!.id,
  limits: ({ options }) => ({ Position: [0, options.length - 1] }),
  facts: ({ options }) => ({ GetPositionNames: [options.map(o => o.name)] }),
  describe: () => null,
})

/** How the blocks of every kind stand in objects; a graphic EQ is a row of parametric filters at fixed places. */
export const mappings: Readonly<Record<Exclude<BlockId, 'graphic'>, Mapping>> = {
  gain, crosspoint, mute, polarity, delay, pass, band, fir, limiter, select,
}
