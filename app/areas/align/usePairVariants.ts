import { is, ownParameters, valueOf, type Parameter, type ParameterOf } from '~~/core/rig'
import { kindsOffered, variantsFor, type FilterVariant } from '~~/core/tune'
import { useAligning } from './aligning'
import { choicesOfNames } from '~/parts/choices'
import { phrase } from '~/parts/phrase'

/** Corners and all-pass middles that are tried. */
const corners = 24
const middles = 8

/** Which filters a search may try besides a delay. */
const wishes = {
  'none': 'none',
  'corner': phrase('align.crossoverCorner'),
  'kind': 'corner and slope',
  'both': phrase('align.crossoverOfBoth'),
  'all-pass': phrase('align.anAllPass'),
} as const

export function usePairVariants() {
  const aligning = useAligning()
  const filters = ref<keyof typeof wishes>('none')

  /** The low-pass of the moved source. */
  const lowPass = computed(() => {
    if (!aligning.move) return null
    try {
      const { rig, from, outputs, others } = aligning.reachOf(aligning.move.members[0]!)
      const isLow = (p: Parameter): p is ParameterOf<'pass'> => is(p, 'pass') && p.capability.side === 'low'
      const own = ownParameters(rig, from, outputs, others, isLow)?.[0]
      if (!own) return null
      const now = valueOf(rig.devices[own.device]!.settings, own.parameter)
      return { now, capability: own.parameter.capability }
    }
    catch (error) {
      if (error instanceof RangeError) return null // nothing brings a signal in
      throw error
    }
  })
  const choices = computed(() =>
    choicesOfNames(wishes).filter(c => lowPass.value !== null || ['none', 'all-pass'].includes(c.value)))
  const between = (low: number, high: number, count: number) =>
    Array.from({ length: count }, (_, k) => Number((low * (high / low) ** (k / (count - 1))).toFixed(1)))

  /** Every variant of the wish; the first is what is set now. */
  function variants(band: readonly [number, number], frequencies: Float64Array): FilterVariant[] {
    const reaches = {
      reference: aligning.reachOf(aligning.reference!.members[0]!),
      move: aligning.reachOf(aligning.move!.members[0]!),
    }
    const wish = filters.value
    const pass = lowPass.value
    const middle = pass?.now.on ? pass.now.frequency : Math.sqrt(band[0] * band[1])
    const usual = [{ family: 'linkwitz-riley', order: 4 } as const]
    const now = pass?.now.on ? [{ family: pass.now.family, order: pass.now.order }] : usual
    const several = pass && ['kind', 'both'].includes(wish) ? kindsOffered(pass.capability) : now
    const withCorners = pass !== null && ['corner', 'kind', 'both'].includes(wish)
    return variantsFor({
      corners: withCorners ? between(middle / 1.7, middle * 1.7, corners) : [],
      kinds: withCorners ? several : [],
      both: wish === 'both',
      allPass: wish === 'all-pass' ? between(band[0], band[1], middles) : [],
      q: wish === 'all-pass' ? [0.5, 0.7, 1.4] : [],
    }, reaches, frequencies)
  }
  return { filters, choices, variants }
}
