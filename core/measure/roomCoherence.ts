import { bandPass, filterThrough, standardGrid, type WindowId } from '../dsp'
import type { Hertz, Seconds } from '../units'
import { multiLevels } from './resolution'
import { taperOf } from './taper'

/** How a running average was made that a response comes from, and in which blocks its coherence was. */
export interface Averaged {
  /** Samples of the blocks that the response was averaged from. */
  block: number
  /** As of the measurement: one length, or several. */
  length: number | 'multi'
  window: WindowId
}

/** Where coherence is judged: in what is heard best, as far as the source plays there; else where it does. */
export function judgedBand(band: readonly [low: Hertz, high: Hertz] | null): [number, number] {
  const [low, high] = band ?? [200, 8000]
  const from = Math.max(200, 1.2 * low)
  const to = Math.min(8000, high / 1.2)
  return to > 2 * from ? [from, to] : [1.4 * low, Math.max(1.8 * low, high / 1.2)]
}

/** Before the arrival the noise is told; so near to it a source's own pulse begins. */
const clearOf: Seconds = 0.02
const ahead: Seconds = 0.002

/** Samples of the blocks that answer for a frequency. */
function blockAt(f: Hertz, length: Averaged['length'], sampleRate: Hertz): number {
  const k = Math.max(0, standardGrid.findIndex(g => g >= f))
  const weight = (l: { first: number, end: number, weights: Float64Array }) =>
    k >= l.first && k < l.end ? l.weights[k - l.first]! : 0
  return multiLevels(length, sampleRate, standardGrid)
    .reduce((best, l) => (weight(l) > weight(best) ? l : best)).length
}

/** What one octave of the response keeps of its energy in blocks that its sound arrives in and leaves. */
function keptIn(samples: Float32Array, at: number, sampleRate: Hertz, middle: Hertz, made: Averaged): number | null {
  const octave = filterThrough(bandPass(3, middle / Math.SQRT2, middle * Math.SQRT2, sampleRate), samples)
  const quiet = Math.max(1, at - Math.round(clearOf * sampleRate))
  let noise = 0
  for (let n = 0; n < quiet; n++) noise += octave[n]! ** 2 / quiet
  const length = blockAt(middle, made.length, sampleRate)
  const reach = samples.length - at
  // the response stands without its taper: its noise is raised by as much
  const raised = taperOf(made.window, made.block, Math.max(at, reach) + 1)
  const kept = taperOf(made.window, length, Math.min(length, reach))
  let all = 0
  let coherent = 0
  for (let n = Math.max(0, at - Math.round(ahead * sampleRate)); n < samples.length; n++) {
    const lag = Math.abs(n - at)
    const energy = octave[n]! ** 2 - noise / raised[lag]! ** 2
    all += energy
    if (lag < kept.length) coherent += energy * kept[lag]! ** 2
  }
  return all > 0 ? Math.max(0, Math.min(1, coherent / all)) : null
}

/**
 * Coherence that a response would have in its measurement's blocks if there were no noise: what arrives late in a
 * block, or after it, is not related to what the block holds of the reference (γ² = Σ h²ρ² / Σ h² with the window's
 * autocorrelation ρ, for a diffuse h). Mean over the octaves of the judged band; null where the source plays none.
 */
export function roomCoherence(
  samples: Float32Array,
  at: number,
  sampleRate: Hertz,
  band: readonly [Hertz, Hertz] | null,
  made: Averaged,
): number | null {
  const [low, high] = judgedBand(band)
  const octaves = [63, 125, 250, 500, 1000, 2000, 4000].filter(f => f >= low / 1.1 && f <= high * 1.1)
  const each = octaves.flatMap(f => keptIn(samples, at, sampleRate, f, made) ?? [])
  return each.length ? each.reduce((a, b) => a + b) / each.length : null
}
