import { magnitude, phase, smoothedGroupDelay, unwrappedPhase, type Curve } from '~~/core/dsp'
import type { TakeHarmonic } from '~~/core/formats/take'
import { confidenceBand, trusted, uncertaintyOf } from '~~/core/measure'
import { phrase } from '~/parts/phrase'

/** One line on the plate. Hue tells the source, dash the position; a prediction is dotted. */
export interface Trace {
  id: string
  name: string
  hue: number
  dash: number
  predicted: boolean
  strong: boolean
  values: Float64Array
  trusted: boolean[]
  /** It changes seldom (kept) or some times a second (slow): drawn once and the picture used again. */
  still?: 'kept' | 'slow'
  /** Spread round the line: lowest and highest. */
  band?: [Float64Array, Float64Array]
}

/** An impulse response that belongs to a curve; sample 0 lies at `start` seconds from the arrival. */
export interface Response {
  samples: Float32Array
  sampleRate: number
  start: number
}

/** A curve on its way to the plate. */
export interface Drawn extends Omit<Trace, 'values' | 'trusted' | 'band'> {
  low?: Float64Array
  high?: Float64Array
  curve: Curve
  /** Too few blocks yet: their coherence is near 1 whatever was heard, so nothing of it is trusted. */
  young?: boolean
  response?: Response | null
  /** Harmonics of a sweep over the fundamental. */
  harmonics?: readonly TakeHarmonic[]
  /** Seconds that were taken out of its phase. */
  delay?: number
  /** Turned upside down, to be laid over what it would correct. */
  inverted?: boolean
}

const flat = new WeakMap<Curve, boolean>()
/** False for levels alone: an average of powers or a curve that came without one has no phase, not one of 0°. */
export function hasPhase(curve: Curve): boolean {
  const known = flat.get(curve) ?? curve.im.every((v, k) => v === 0 && curve.re[k]! >= 0)
  flat.set(curve, known)
  return !known
}

const mask = (d: Drawn, threshold?: number) => trusted(d.curve, threshold).map(t => t && !d.young)

const trace = (d: Drawn, values: Float64Array, flags = mask(d)): Trace => ({
  id: d.id,
  name: d.name,
  hue: d.hue,
  dash: d.dash,
  predicted: d.predicted,
  strong: d.strong,
  ...(d.still ? { still: d.still } : {}),
  values,
  trusted: flags,
})

/** What was computed for a curve, by what it was asked: curves never change once they are drawn. */
const computed = new WeakMap<Curve, Map<string, { values: Float64Array, trusted: boolean[] }>>()
function once(d: Drawn, asked: string, threshold: number | undefined, values: () => Float64Array): Trace {
  const kept = computed.get(d.curve) ?? new Map<string, { values: Float64Array, trusted: boolean[] }>()
  const key = `${asked} ${threshold} ${d.young}`
  computed.set(d.curve, kept)
  const found = kept.get(key) ?? { values: values(), trusted: mask(d, threshold) }
  kept.set(key, found)
  return trace(d, found.values, found.trusted)
}

const kept = new WeakMap<Curve, Map<string, Trace['band'] | null>>()
/** The confidence of a measured curve by what it was asked for: found once, as the line is. */
function limitsOnce({ curve, predicted }: Drawn, asked: string, make: () => Trace['band'] | null): Trace['band'] {
  if (predicted) return undefined
  const known = kept.get(curve) ?? new Map<string, Trace['band'] | null>()
  kept.set(curve, known)
  if (!known.has(asked)) known.set(asked, make())
  return known.get(asked) ?? undefined
}

/** Limits of a curve's level where a spread of several, or its confidence if that is asked for, gives some. */
function limitsOf(d: Drawn, confidence: boolean): Trace['band'] {
  if (d.low && d.high) return [d.low, d.high]
  if (!confidence) return undefined
  return limitsOnce(d, `level ${d.inverted}`, () => {
    const limits = confidenceBand(d.curve)
    if (!limits) return null
    return d.inverted ? [limits.high.map(v => -v), limits.low.map(v => -v)] : [limits.low, limits.high]
  })
}

/** Magnitude in dB; silence (-150 dB and less) is not drawn. */
export function magnitudeTrace(d: Drawn, threshold?: number, confidence = false): Trace {
  const line = once(d, `magnitude ${d.inverted}`, threshold, () =>
    magnitude(d.curve).map(v => (v < -150 ? Number.NaN : v * (d.inverted ? -1 : 1))),
  )
  const band = limitsOf(d, confidence)
  return band ? { ...line, band } : line
}

const sounding = (d: Drawn, values: Float64Array) =>
  values.map((v, k) => (d.curve.re[k] === 0 && d.curve.im[k] === 0 ? Number.NaN : v))

/** A curve that arrives later by so many seconds. */
function later(curve: Curve, seconds: number): Curve {
  if (!seconds) return curve
  const re = new Float64Array(curve.re.length)
  const im = new Float64Array(curve.im.length)
  curve.frequencies.forEach((f, k) => {
    const angle = -2 * Math.PI * f * seconds
    re[k] = curve.re[k]! * Math.cos(angle) - curve.im[k]! * Math.sin(angle)
    im[k] = curve.re[k]! * Math.sin(angle) + curve.im[k]! * Math.cos(angle)
  })
  return { ...curve, re, im }
}

/**
 * Phase in degrees, lifted off the paper where it wraps round; or without wrapping, 0 at 1 kHz within a turn. `late`:
 * seconds that it arrives after the delay that is taken out of all.
 */
export function phaseTrace(d: Drawn, threshold?: number, unwrapped = false, confidence = false, late = 0): Trace {
  const line = once(d, `phase ${unwrapped} ${late}`, threshold, () => {
    const curve = later(d.curve, late)
    if (unwrapped) {
      const angle = unwrappedPhase(curve)
      const middle = curve.frequencies.findIndex(f => f >= 1000)
      const turns = Math.round(angle[middle]! / 360) * 360
      return sounding(
        d,
        angle.map(v => v - turns),
      )
    }
    const angle = phase(curve)
    return sounding(
      d,
      angle.map((v, k) => (k > 0 && Math.abs(v - angle[k - 1]!) > 180 ? Number.NaN : v)),
    )
  })
  if (!confidence) return line
  const band = limitsOnce(d, `phase ${unwrapped} ${late}`, () => {
    const off = uncertaintyOf(d.curve)?.map(r => (r < 1 ? (Math.asin(r) * 180) / Math.PI : 180))
    return off ? [line.values.map((v, k) => v - off[k]!), line.values.map((v, k) => v + off[k]!)] : null
  })
  return band ? { ...line, band } : line
}

/** Group delay in milliseconds, averaged over so many octaves. */
export const groupDelayTrace = (d: Drawn, threshold: number, octaves: number): Trace =>
  once(d, `group delay ${octaves}`, threshold, () =>
    sounding(
      d,
      smoothedGroupDelay(d.curve, octaves).map(v => v * 1000),
    ),
  )

/**
 * A response over time on `times` (ms): the sample of the largest size around each, over the largest of all. In
 * dB: never under -80.
 */
export function timeTrace(
  d: Drawn,
  times: Float64Array,
  kind: 'linear' | 'dB' | 'step',
  values: ArrayLike<number> = d.response!.samples,
): Trace {
  const { sampleRate, start } = d.response!
  const half = times.length > 1 ? (times[1]! - times[0]!) / 2 : 0.01
  let most = 1e-12
  for (let n = 0; n < values.length; n++) most = Math.max(most, Math.abs(values[n]!))
  return trace(
    { ...d, strong: false },
    Float64Array.from(times, (t) => {
      const from = Math.ceil(((t - half) / 1000 - start) * sampleRate)
      const to = Math.floor(((t + half) / 1000 - start) * sampleRate)
      let best = values[Math.round((t / 1000 - start) * sampleRate)] ?? 0
      if (kind !== 'step')
        for (let n = Math.max(0, from); n <= Math.min(to, values.length - 1); n++)
          if (Math.abs(values[n]!) > Math.abs(best)) best = values[n]!
      return kind === 'dB' ? Math.max(-80, 20 * Math.log10(Math.abs(best) / most)) : best / most
    }),
    Array.from(times, () => true),
  ) // drawn fine: a jagged wide line costs more than all else
}

/** A harmonic on the frequencies of a curve; straight between the points it has, nothing where noise governed it. */
function harmonicOn(frequencies: Float64Array, { frequencies: f, level }: TakeHarmonic): Float64Array {
  return Float64Array.from(frequencies, (x) => {
    const k = f.findIndex(g => g >= x)
    return k <= 0 || f[k]! > 1.3 * f[k - 1]!
      ? Number.NaN
      : level[k - 1]! + (Math.log(x / f[k - 1]!) / Math.log(f[k]! / f[k - 1]!)) * (level[k]! - level[k - 1]!)
  })
}

/** Harmonics of a sweep in dB over the fundamental, and all of them together. */
export function harmonicTraces(d: Drawn): Trace[] {
  const each = (d.harmonics ?? []).map(h => ({ order: h.order, values: harmonicOn(d.curve.frequencies, h) }))
  if (!each.length) return []
  const flags = Array.from(d.curve.frequencies, () => true)
  const orders = each.filter(h => h.order > 0)
  const noisy = each.find(h => h.order === 0)
  const total = Float64Array.from(d.curve.frequencies, (_, k) => {
    const sum = orders.reduce((s, h) => s + (Number.isNaN(h.values[k]!) ? 0 : 10 ** (h.values[k]! / 10)), 0)
    return sum > 0 ? 10 * Math.log10(sum) : Number.NaN
  })
  return [
    ...orders.map(({ order, values }) => ({
      ...trace(d, values, flags),
      id: `${d.id}-${order}`,
      name: phrase('charts.harmonic', { order }),
      hue: [0, 1, 2, 5][order - 2] ?? 7,
      dash: order - 2,
      strong: false,
    })),
    { ...trace(d, total, flags), id: `${d.id}-total`, name: phrase('charts.thd'), dash: 0, strong: true },
    ...(noisy
      ? [{ ...trace(d, noisy.values, flags), id: `${d.id}-noisy`, name: phrase('charts.thdN'), dash: 3, strong: false }]
      : []),
  ]
}

const whole = new WeakMap<Float64Array, boolean[]>()
const everywhere = ({ frequencies }: Curve) => {
  const all = whole.get(frequencies) ?? Array.from(frequencies, () => true)
  whole.set(frequencies, all)
  return all
}
/** Coherence; it is what trust is made of, so it is never pale itself. */
export const coherenceTrace = (d: Drawn): Trace => ({
  ...once(d, 'coherence', 0, () => sounding(d, d.curve.coherence!)),
  trusted: everywhere(d.curve),
})
