import type { Curve, SweepPlan } from '~~/core/dsp'
import type { SweepResult } from '~~/core/measure'

/** The data of a take by sweep: curve, response from its arrival, harmonics where they are known, and noise. */
export function sweptData(result: SweepResult, curve: Curve) {
  const { impulse: samples, sampleRate, start, arrival, harmonics, total, signalToNoise } = result
  const withNoise = { order: 0, frequencies: total.frequencies, level: total.withNoise }
  return {
    curve,
    impulse: { samples, sampleRate, start: start - arrival },
    harmonics: [...harmonics, withNoise].flatMap(({ order, ...h }) => {
      const known = [...h.level.keys()].filter(k => Number.isFinite(h.level[k]))
      const of = (column: Float64Array) => Float32Array.from(known, k => column[k]!)
      return known.length ? [{ order, frequencies: of(h.frequencies), level: of(h.level) }] : []
    }),
    signalToNoise: signalToNoise.map(b => ({ middle: b.middle, level: b.level })),
  }
}

/** How a take by sweep was measured. */
export const sweptInfo = (result: SweepResult, input: string, sweep: SweepPlan & { repeats: number }) => ({
  method: 'sweep' as const,
  input,
  sampleRate: result.sampleRate,
  length: 2 ** 17,
  blocks: sweep.repeats,
  arrival: result.first,
  microphoneLevel: null,
  referenceLevel: null,
  sweep,
})
