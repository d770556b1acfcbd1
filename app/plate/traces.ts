import { groupDelay, magnitude, phase, unwrappedPhase, type Curve } from '~~/core/dsp'
import type { TakeHarmonic } from '~~/core/formats/take'
import { trusted } from '~~/core/measure'

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
  /** Turned upside down, to be laid over what it would correct. */
  inverted?: boolean
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

/** Magnitude in dB; silence (-150 dB and less) is not drawn. */
export const magnitudeTrace = (d: Drawn, threshold?: number): Trace => ({
  ...once(d, `magnitude ${d.inverted}`, threshold, () =>
    magnitude(d.curve).map(v => (v < -150 ? Number.NaN : v * (d.inverted ? -1 : 1))),
  ),
  ...(d.low && d.high ? { band: [d.low, d.high] } : {}),
})

const sounding = (d: Drawn, values: Float64Array) =>
  values.map((v, k) => (d.curve.re[k] === 0 && d.curve.im[k] === 0 ? Number.NaN : v))

/** Phase in degrees, lifted off the paper where it wraps round; or without wrapping, 0 at 1 kHz within a turn. */
export function phaseTrace(d: Drawn, threshold?: number, unwrapped = false): Trace {
  return once(d, `phase ${unwrapped}`, threshold, () => {
    if (unwrapped) {
      const angle = unwrappedPhase(d.curve)
      const middle = d.curve.frequencies.findIndex(f => f >= 1000)
      const turns = Math.round(angle[middle]! / 360) * 360
      return sounding(
        d,
        angle.map(v => v - turns),
      )
    }
    const angle = phase(d.curve)
    return sounding(
      d,
      angle.map((v, k) => (k > 0 && Math.abs(v - angle[k - 1]!) > 180 ? Number.NaN : v)),
    )
  })
}

/** Group delay in milliseconds. */
export const groupDelayTrace = (d: Drawn, threshold?: number): Trace =>
  once(d, 'group delay', threshold, () =>
    sounding(
      d,
      groupDelay(d.curve).map(v => v * 1000),
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

/**
 * Harmonics of a sweep on the frequencies of its curve, in dB over the fundamental; straight between the points
 * they have.
 */
export const harmonicTraces = (d: Drawn): Trace[] =>
  (d.harmonics ?? []).map(({ order, frequencies: f, level }) => {
    const values = Float64Array.from(d.curve.frequencies, (x) => {
      const k = f.findIndex(g => g >= x)
      return k <= 0
        ? Number.NaN
        : level[k - 1]! + (Math.log(x / f[k - 1]!) / Math.log(f[k]! / f[k - 1]!)) * (level[k]! - level[k - 1]!)
    })
    return {
      ...trace(
        d,
        values,
        Array.from(values, () => true),
      ),
      id: `${d.id}-${order}`,
      name: `harmonic ${order}`,
      hue: [0, 1, 2, 5][order - 2] ?? 7,
      dash: order - 2,
      strong: false,
    }
  })

const whole = new WeakMap<Float64Array, boolean[]>()
const everywhere = ({ frequencies }: Curve) => {
  const all = whole.get(frequencies) ?? Array.from(frequencies, () => true)
  whole.set(frequencies, all)
  return all
}
/** Coherence; it is what trust is made of, so it is never pale itself. */
export const coherenceTrace = (d: Drawn): Trace => ({
  ...once(d, 'coherence', 0, () => d.curve.coherence!),
  trusted: everywhere(d.curve),
})
