import { magnitude, phase, smoothedGroupDelay, standardGrid, type Curve } from '~~/core/dsp'
import { smooth, trusted } from '~~/core/measure'
import { inTimeOf, pairsIn, sumReader } from '~~/core/tune'
import type { Trace } from '~/charts/traces'
import { useAligning } from './aligning'
import { useCharts } from '~/charts/useCharts'
import { useView } from '~/document/view'
import { phrase } from '~/parts/phrase'

export const pairViews = {
  magnitude: phrase('common.magnitude'),
  phase: phrase('common.phase'),
  difference: phrase('align.phaseDifference'),
  delay: phrase('common.groupDelay'),
} as const
export type PairView = keyof typeof pairViews

/** Axes of the views. */
export const pairAxes: Record<PairView, { unit: string, min: number, max: number, step: number }> = {
  magnitude: { unit: 'dB', min: -36, max: 12, step: 6 },
  phase: { unit: phrase('align.degrees'), min: -180, max: 180, step: 45 },
  difference: { unit: phrase('align.degrees'), min: -180, max: 180, step: 45 },
  delay: { unit: phrase('align.msAfterTheReference'), min: -10, max: 30, step: 5 },
}
const degrees = (rad: Float64Array) => rad.map(v => (v * 180) / Math.PI)

/** Two sources at a position as they would sum with a delay and a polarity tried, and what all positions say. */
export function useTrial(band: Ref<[number, number] | null>) {
  const aligning = useAligning()
  const view = useView()
  const charts = useCharts()
  const delay = ref(0)
  const turned = ref(false)
  const at = ref(0)
  const kind = ref<PairView>('magnitude')
  const place = computed(() => aligning.places[Math.min(at.value, aligning.places.length - 1)] ?? null)
  const smoothed = (c: Curve) => smooth(c, view.smoothing, undefined, charts.settings.complexSmoothing)

  /** Both by the reference's own time, the moved one as tried, and their sum. */
  const curves = computed(() => {
    if (!place.value) return null
    const { r, m } = place.value
    const moved = inTimeOf({ curve: m.curve, delay: m.delay + delay.value }, r.delay)
    const sign = turned.value ? -1 : 1
    const flipped = { ...moved, re: moved.re.map(v => sign * v), im: moved.im.map(v => sign * v) }
    const sum = {
      ...r.curve,
      re: r.curve.re.map((v, k) => v + flipped.re[k]!),
      im: r.curve.im.map((v, k) => v + flipped.im[k]!),
    }
    return { reference: r.curve, move: flipped, sum }
  })
  const flags = computed(() => {
    const [a, b] = [place.value!.r.curve, place.value!.m.curve].map(c => trusted(c, charts.settings.trust))
    return { reference: a!, move: b!, sum: a!.map((t, k) => t && b![k]!) }
  })
  const traces = computed<Trace[]>(() => {
    const now = curves.value
    const [first, second] = [aligning.reference, aligning.move]
    if (!now || !first || !second) return []
    const line = (which: 'reference' | 'move' | 'sum', name: string, hue: number, values: Float64Array): Trace =>
      ({ id: which, name, hue, values, dash: 0, predicted: which === 'sum', strong: true, trusted: flags.value[which] })
    if (kind.value === 'difference') {
      const apart = degrees(phase(smoothed(overOf(now.move, now.reference))))
      return [line('sum', `${second.name} against ${first.name}`, second.hue, apart)]
    }
    const of = (c: Curve) => {
      if (kind.value === 'magnitude') return magnitude(smoothed(c))
      if (kind.value === 'phase') return degrees(phase(smoothed(c)))
      return smoothedGroupDelay(c, 1 / 3).map(t => t * 1000)
    }
    return [
      line('reference', first.name, first.hue, of(now.reference)),
      line('move', second.name, second.hue, of(now.move)),
      line('sum', phrase('align.theirSum'), 7, of(now.sum)),
    ]
  })
  /** What every position says of the sum in the band: read again at every step of a drag. */
  const reader = computed(() => {
    if (!band.value || !aligning.places.length) return null
    const weights = aligning.places.map(p => p.position.weight)
    if (!weights.some(w => w > 0)) return null
    try {
      return sumReader({ ...pairsIn(aligning.both, band.value), weights })
    }
    catch (error) {
      if (error instanceof RangeError) return null // silent there: the search says so
      throw error
    }
  })
  const told = computed(() => reader.value?.({ delay: delay.value, polarity: turned.value ? -1 : 1 }) ?? null)
  /** The two that are tried; while their takes are read anew there are none, and what is tried stays. */
  let tried = ''
  watch([() => aligning.reference?.id, () => aligning.move?.id], ([reference, move]) => {
    if (!reference || !move || tried === `${reference} ${move}`) return
    tried = `${reference} ${move}`
    delay.value = 0
    turned.value = false
  }, { immediate: true })
  return { delay, turned, at, kind, place, traces, told }
}

/** One curve over another: its phase is that between them. */
function overOf(a: Curve, b: Curve): Curve {
  const re = new Float64Array(standardGrid.length)
  const im = re.slice()
  for (let k = 0; k < re.length; k++) {
    re[k] = a.re[k]! * b.re[k]! + a.im[k]! * b.im[k]!
    im[k] = a.im[k]! * b.re[k]! - a.re[k]! * b.im[k]!
  }
  return { ...a, re, im }
}
