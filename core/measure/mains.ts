import { hann, realFft } from '../dsp'
import type { Decibels, Hertz } from '../units'

/** Lines of a mains frequency that stand out and stay. */
export interface Hum {
  mains: 50 | 60
  lines: Hertz[]
}

/** One line of a block of sound. */
interface Line {
  frequency: Hertz
  level: Decibels
}

/** So many blocks in a row must have a line: with the length of a block, more than five seconds. */
const blocksNeeded = 4
const leastSeconds = 1.3
/** How far a line may lie from a multiple, and the lines' own fundamentals from one another: parts of a frequency. */
const within = 0.002
const agreeWithin = 0.001
const linesNeeded = 3
/** How well a line's frequency is told in noise. */
const told: Hertz = 0.08
const highest = 10
/** dB over the neighbours' median from which a line stands out, dBFS under which nothing is judged, and its sway. */
const stands = 10
const audible = -90
const sways = 4

const tolerance = (f: Hertz, part: number): Hertz => Math.max(told, part * f)

/** Frequency and level of the line at a bin of a Hann-windowed spectrum: exact for one tone (ratio of neighbours). */
function lineAt(power: Float64Array, k: number, bin: Hertz): Line {
  const side = power[k + 1]! > power[k - 1]! ? 1 : -1
  const ratio = Math.sqrt(power[k + side]! / Math.max(1e-30, power[k]!))
  const off = (side * (2 * ratio - 1)) / (ratio + 1)
  return { frequency: (k + off) * bin, level: 10 * Math.log10(Math.max(1e-30, power[k]!)) }
}

/** Whether a bin is a peak that stands over what lies around it. */
function isLine(power: Float64Array, k: number): boolean {
  for (let n = 1; n <= 3; n++) if (power[k - n]! >= power[k]! || power[k + n]! > power[k]!) return false
  const around: number[] = []
  for (let n = 4; n <= 18; n++) around.push(power[k - n] ?? 0, power[k + n]!)
  const median = around.sort((a, b) => a - b)[around.length >> 1]!
  return 10 * Math.log10(power[k]! / Math.max(1e-30, median)) > stands && 10 * Math.log10(power[k]!) > audible
}

/** All lines of a block up to the tenth multiple of 60 Hz. */
function linesOf(power: Float64Array, bin: Hertz): Line[] {
  const last = Math.ceil((60 * (highest + 1)) / bin)
  return Array.from({ length: last }, (_, k) => k)
    .filter(k => k * bin > 20 && isLine(power, k))
    .map(k => lineAt(power, k, bin))
}

/** The lines of the newest block that each block before has as well, as high and at the same place: their means. */
function steadyLines(blocks: readonly Line[][]): Line[] {
  const near = (a: Line, b: Line) =>
    Math.abs(a.frequency - b.frequency) < tolerance(a.frequency, within) + told && Math.abs(a.level - b.level) < sways
  const [newest, ...before] = blocks.toReversed()
  return newest!.flatMap((line) => {
    const all = [line, ...before.flatMap(lines => lines.find(other => near(line, other)) ?? [])]
    if (all.length < blocks.length) return []
    return [{ ...line, frequency: all.reduce((sum, l) => sum + l.frequency, 0) / all.length }]
  })
}

function humIn(steady: readonly Line[]): Hum | null {
  for (const mains of [50, 60] as const) {
    const own = steady.flatMap((line) => {
      const n = Math.round(line.frequency / mains)
      const off = Math.abs(line.frequency - n * mains)
      return n >= 1 && n <= highest && off < tolerance(n * mains, within) ? [{ ...line, n }] : []
    })
    // one machine, one fundamental: what only happens to lie near a multiple has another
    const withBase = (base: Hertz) =>
      own.filter(l => Math.abs(l.frequency - l.n * base) < tolerance(l.frequency, agreeWithin))
    const family = own
      .map(l => withBase(l.frequency / l.n))
      .reduce<typeof own>((best, some) => (some.length > best.length ? some : best), [])
    if (family.length < linesNeeded) continue
    // lines between the multiples, as loud: a motor's, of which some fall on multiples
    const loudest = Math.max(...family.map(l => l.level))
    const others = steady.filter(l => !own.some(o => o.frequency === l.frequency) && l.level > loudest - 10)
    if (others.length >= family.length) continue
    return { mains, lines: family.map(l => l.n * mains) }
  }
  return null
}

/**
 * Hears whether mains hum in silence: by the frequencies of lines that stay. Multiples of 50 or 60 Hz within 0.2 % (the
 * grid's own tolerance in normal operation; common practice), three or more of one fundamental, steady over more than
 * five seconds. `length`: samples of a block for `push`, in order and without gaps; `forget` where something sounded.
 */
export function createHumEar(sampleRate: Hertz) {
  const length = 2 ** Math.ceil(Math.log2(leastSeconds * sampleRate))
  const fft = realFft(length)
  const window = hann(length)
  const windowed = new Float64Array(length)
  const [re, im] = [new Float64Array(length / 2 + 1), new Float64Array(length / 2 + 1)]
  const scale = 16 / length ** 2
  let blocks: Line[][] = []
  return {
    length,
    push(samples: Float32Array) {
      for (let n = 0; n < length; n++) windowed[n] = samples[n]! * window[n]!
      fft.forward(windowed, re, im)
      const power = re.map((v, k) => (v * v + im[k]! * im[k]!) * scale)
      blocks = [...blocks.slice(1 - blocksNeeded), linesOf(power, sampleRate / length)]
    },
    forget() {
      blocks = []
    },
    /** What hums; null where nothing does. `known` is false until there was silence for long enough. */
    read: (): { known: boolean, hum: Hum | null } => blocks.length < blocksNeeded
      ? { known: false, hum: null }
      : { known: true, hum: humIn(steadyLines(blocks)) },
  }
}
