import { divide, unity, type Curve } from '../dsp'
import { applyBlock, isOn, parametersOf, pathMap, valueOf, type Pass, type PassCapability, type Rig } from '../rig'
import type { Hertz } from '../units'
import { settingsFor, showAct, withSettings, type Act, type Reach } from './acts'
import type { Variant } from './bestSum'

/** Filters that could be set besides a delay, with what they do to both sources of a search. */
export interface FilterVariant extends Variant {
  /** What it is, in a few words; null: as it is now. */
  name: string | null
  acts: { of: 'reference' | 'move', act: Act }[]
}
type Who = FilterVariant['acts'][number]['of']

/** What acts do to a source's sound, complex: what they set over what was there, on the way to its first output. */
function effectOf(acts: readonly Act[], reach: Reach, frequencies: Float64Array): Curve | undefined {
  const [to] = reach.outputs
  if (!acts.length || !to) return undefined
  let rig: Rig = reach.rig
  for (const act of acts) rig = withSettings(rig, settingsFor(act, { ...reach, rig }))
  const on = pathMap(reach.rig, reach.from, to)
  const [was, is] = [unity(frequencies), unity(frequencies)]
  for (const device of on.devices) {
    const [before, after] = [reach.rig.devices[device]!, rig.devices[device]!]
    if (before === after) continue
    const { sampleRate } = before.capability
    for (const p of parametersOf(before.capability).values()) {
      const [old, next] = [valueOf(before.settings, p), valueOf(after.settings, p)]
      if (old === next || !isOn(on, device, p)) continue
      applyBlock(was, p, old, sampleRate)
      applyBlock(is, p, next, sampleRate)
    }
  }
  return divide(is, was)
}

/** Acts as a variant of a search. Throws RangeError where a device cannot do one. */
export function variantOf(
  name: string | null,
  acts: FilterVariant['acts'],
  reaches: Readonly<Record<Who, Reach>>,
  frequencies: Float64Array,
): FilterVariant {
  const effect = (of: Who) => effectOf(acts.filter(a => a.of === of).map(a => a.act), reaches[of], frequencies)
  return { name, acts, reference: effect('reference'), move: effect('move') }
}

/** What is looked at besides a delay. */
export interface VariantWish {
  /** Corners of the crossover, and what it may be; none: it stays. */
  corners: readonly Hertz[]
  kinds: readonly Pick<Pass, 'family' | 'order'>[]
  /** Whether the high-pass of the reference goes with the low-pass of the moved source, or stays. */
  both: boolean
  /** Middles of all-pass filters of the moved source, and their Qs; none: no all-pass. */
  allPass: readonly Hertz[]
  q: readonly number[]
}

/** Every variant of a wish that the devices can do; the first is what is set now. */
export function variantsFor(
  wish: VariantWish,
  reaches: Readonly<Record<Who, Reach>>,
  frequencies: Float64Array,
): FilterVariant[] {
  const passes = wish.kinds.flatMap(kind => wish.corners.map((frequency): FilterVariant['acts'] => {
    const pass = { on: true, ...kind, frequency }
    const low = { of: 'move', act: { kind: 'pass', side: 'low', pass } } as const
    return wish.both ? [low, { of: 'reference', act: { kind: 'pass', side: 'high', pass } }] : [low]
  }))
  const turns = wish.q.flatMap(q => wish.allPass.map((frequency): FilterVariant['acts'] =>
    [{ of: 'move', act: { kind: 'all-pass', frequency, q } }]))
  const found = [...passes, ...turns].flatMap((acts) => {
    try {
      return [variantOf(showAct(acts[0]!.act), acts, reaches, frequencies)]
    }
    catch (error) {
      if (error instanceof RangeError) return [] // this device has no such filter
      throw error
    }
  })
  return [variantOf(null, [], reaches, frequencies), ...found]
}

/** Kinds of pass that a capability offers, of those that sum well with themselves. */
export const kindsOffered = ({ orders }: Pick<PassCapability, 'orders'>): Pick<Pass, 'family' | 'order'>[] =>
  ([['linkwitz-riley', 4], ['linkwitz-riley', 2], ['butterworth', 3], ['butterworth', 4]] as const)
    .filter(([family, order]) => orders[family]?.includes(order))
    .map(([family, order]) => ({ family, order }))
