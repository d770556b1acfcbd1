import { gridPerOctave, standardGrid, type Curve } from '../dsp'
import type { Decibels, Hertz, Seconds } from '../units'
import { refusal } from '../words'

/** Samples of a response; sample 0 lies `start` seconds after the delay that was taken out of the curve. */
export interface TakeImpulse {
  samples: Float32Array
  sampleRate: Hertz
  start: Seconds
}
/**
 * A harmonic of a sweep: its level over the fundamental in dB, by the frequency that was played. Order 0: all of them
 * with the noise (THD+N).
 */
export interface TakeHarmonic {
  order: number
  frequencies: Float32Array
  level: Float32Array
}
/** The data of a take: its curve with coherence, the impulse response behind it, and what a sweep says besides. */
export interface TakeData {
  curve: Curve
  impulse: TakeImpulse | null
  harmonics: TakeHarmonic[]
  /** The response over the noise before it, per octave. */
  signalToNoise: { middle: Hertz, level: Decibels }[]
}

const magic = 0x4b56_5432 // 'KVT2', in the file with its lowest byte first: '2TVK'
const older = 0x4b56_5431 // 'KVT1'
const mostPoints = 100_000
const mostSamples = 2 ** 22
const mostChunks = 64

const tagOf = (name: string): number => [...name].reduce((sum, c, k) => sum + c.charCodeAt(0) * 2 ** (8 * k), 0)
const tags = {
  grid: tagOf('GRID'),
  frequencies: tagOf('FREQ'),
  curve: tagOf('CURV'),
  coherence: tagOf('COHR'),
  averages: tagOf('AVGS'),
  impulse: tagOf('IMPU'),
  harmonic: tagOf('HARM'),
  noise: tagOf('SNRB'),
}

const float32 = (columns: readonly ArrayLike<number>[]): Uint8Array => {
  const bytes = new Uint8Array(4 * columns.reduce((sum, c) => sum + c.length, 0))
  const view = new DataView(bytes.buffer)
  let at = 0
  for (const column of columns) {
    for (let k = 0; k < column.length; k++, at += 4) view.setFloat32(at, column[k]!, true)
  }
  return bytes
}
const float64 = (...values: number[]): Uint8Array => {
  const bytes = new Uint8Array(8 * values.length)
  values.forEach((v, k) => new DataView(bytes.buffer).setFloat64(8 * k, v, true))
  return bytes
}
const joined = (...parts: Uint8Array[]): Uint8Array<ArrayBuffer> => {
  const bytes = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0))
  let at = 0
  for (const part of parts) {
    bytes.set(part, at)
    at += part.length
  }
  return bytes
}
const words = (...values: number[]): Uint8Array => {
  const bytes = new Uint8Array(4 * values.length)
  values.forEach((v, k) => new DataView(bytes.buffer).setUint32(4 * k, v, true))
  return bytes
}
const chunk = (tag: number, payload: Uint8Array) => joined(words(tag, payload.length), payload)

const isStandard = (f: Float64Array) =>
  f.length === standardGrid.length && f[0] === standardGrid[0] && f[f.length - 1] === standardGrid[f.length - 1]

/**
 * A take's data as bytes, little-endian: 'KVT2', then chunks, each a tag of four letters, its length in bytes
 * (uint32) and its payload. GRID: float64 lowest frequency, float64 points an octave, uint32 points; or FREQ: float32
 * frequencies. CURV: float32 real, then imaginary parts. COHR: float32 coherence. AVGS: float32 averages. IMPU:
 * float64 sample rate, float64 start in seconds, float32 samples. HARM: uint32 order, float32 frequencies, then
 * levels. SNRB: float32 pairs of middle frequency and level. A reader passes over what it does not know.
 */
export function encodeTake({ curve, impulse, harmonics, signalToNoise }: TakeData): Uint8Array<ArrayBuffer> {
  const { frequencies, re, im, coherence, averages } = curve
  const grid = isStandard(frequencies)
    ? chunk(tags.grid, joined(float64(frequencies[0]!, gridPerOctave), words(frequencies.length)))
    : chunk(tags.frequencies, float32([frequencies]))
  const parts = [words(magic), grid, chunk(tags.curve, float32([re, im]))]
  if (coherence) parts.push(chunk(tags.coherence, float32([coherence])))
  if (averages) parts.push(chunk(tags.averages, float32([averages])))
  if (impulse) {
    const { samples, sampleRate, start } = impulse
    parts.push(chunk(tags.impulse, joined(float64(sampleRate, start), float32([samples]))))
  }
  for (const { order, frequencies: f, level } of harmonics) {
    parts.push(chunk(tags.harmonic, joined(words(order), float32([f, level]))))
  }
  if (signalToNoise.length) {
    parts.push(chunk(tags.noise, float32([signalToNoise.flatMap(b => [b.middle, b.level])])))
  }
  return joined(...parts)
}

const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

/** Chunks by their tags, in order. Throws RangeError when the bytes are no take or are cut short. */
function chunksOf(bytes: Uint8Array): { tag: number, payload: Uint8Array }[] {
  const view = viewOf(bytes)
  const kind = bytes.length >= 4 ? view.getUint32(0, true) : 0
  if (kind === older) throw refusal('take.older')
  if (kind !== magic) throw refusal('take.noTake')
  const chunks: { tag: number, payload: Uint8Array }[] = []
  let at = 4
  while (at < bytes.length) {
    if (at + 8 > bytes.length) throw refusal('take.short')
    const length = view.getUint32(at + 4, true)
    if (at + 8 + length > bytes.length) throw refusal('take.short')
    if (chunks.length >= mostChunks) throw refusal('take.manyParts')
    chunks.push({ tag: view.getUint32(at, true), payload: bytes.subarray(at + 8, at + 8 + length) })
    at += 8 + length
  }
  return chunks
}

function column(payload: Uint8Array, from: number, count: number, name: string): Float64Array {
  const view = viewOf(payload)
  const values = new Float64Array(count)
  for (let k = 0; k < count; k++) values[k] = view.getFloat32(from + 4 * k, true)
  if (!values.every(Number.isFinite)) throw refusal('take.noNumbers', { part: name })
  return values
}

/** Float32 numbers that a payload holds after its first `head` bytes; `per` columns of equal length. */
function countIn(payload: Uint8Array, head: number, per: number, most: number, name: string): number {
  const count = (payload.length - head) / (4 * per)
  if (!Number.isInteger(count) || count < 0) throw refusal('take.partShort', { part: name })
  if (count > most) throw refusal('take.partTooLong', { count, part: name })
  return count
}

function frequenciesIn(chunks: readonly { tag: number, payload: Uint8Array }[]): Float64Array {
  const listed = chunks.find(c => c.tag === tags.frequencies)?.payload
  if (listed) {
    const f = column(listed, 0, countIn(listed, 0, 1, mostPoints, 'frequencies'), 'frequencies')
    if (f.length < 2) throw refusal('take.fewPoints')
    if (!f.every((v, k) => v > (k ? f[k - 1]! : 0))) throw refusal('take.notAscending')
    return f
  }
  const grid = chunks.find(c => c.tag === tags.grid)?.payload
  if (grid?.length !== 20) throw refusal('take.noFrequencies')
  const view = viewOf(grid)
  const [low, perOctave, points] = [view.getFloat64(0, true), view.getFloat64(8, true), view.getUint32(16, true)]
  if (!(low > 0 && low < 1e6 && perOctave > 0 && perOctave < 1e4) || points < 2 || points > mostPoints) {
    throw refusal('take.frequenciesNotPossible')
  }
  if (low === standardGrid[0] && perOctave === gridPerOctave && points === standardGrid.length) return standardGrid
  return Float64Array.from({ length: points }, (_, k) => low * 2 ** (k / perOctave))
}

/**
 * The inverse of `encodeTake`. Throws RangeError with the reason when the bytes are no take, are cut short, or
 * cannot be.
 */
export function decodeTake(bytes: Uint8Array): TakeData {
  const chunks = chunksOf(bytes)
  const frequencies = frequenciesIn(chunks)
  const points = frequencies.length
  const find = (tag: number) => chunks.find(c => c.tag === tag)?.payload
  const curve = find(tags.curve)
  if (curve?.length !== 8 * points) throw refusal('take.noCurve')
  const trust = find(tags.coherence)
  if (trust && trust.length !== 4 * points) throw refusal('take.coherenceLength')
  const counts = find(tags.averages)
  if (counts && counts.length !== 4 * points) throw refusal('take.averagesLength')
  return {
    curve: {
      frequencies,
      re: column(curve, 0, points, 'curve'),
      im: column(curve, 4 * points, points, 'curve'),
      coherence: trust ? column(trust, 0, points, 'coherence') : null,
      averages: counts ? column(counts, 0, points, 'averages') : null,
    },
    impulse: impulseIn(find(tags.impulse)),
    harmonics: chunks.filter(c => c.tag === tags.harmonic).map(c => harmonicIn(c.payload)),
    signalToNoise: noiseIn(find(tags.noise)),
  }
}

function impulseIn(payload: Uint8Array | undefined): TakeImpulse | null {
  if (!payload) return null
  if (payload.length < 16) throw refusal('take.responseShort')
  const view = viewOf(payload)
  const [sampleRate, start] = [view.getFloat64(0, true), view.getFloat64(8, true)]
  if (!(sampleRate >= 8000 && sampleRate <= 768_000 && Math.abs(start) < 1e4)) {
    throw refusal('take.responseNotPossible')
  }
  const count = countIn(payload, 16, 1, mostSamples, 'impulse response')
  return { samples: Float32Array.from(column(payload, 16, count, 'impulse response')), sampleRate, start }
}

function harmonicIn(payload: Uint8Array): TakeHarmonic {
  if (payload.length < 4) throw refusal('take.harmonicsShort')
  const n = countIn(payload, 4, 2, mostPoints, 'harmonics')
  return {
    order: viewOf(payload).getUint32(0, true),
    frequencies: Float32Array.from(column(payload, 4, n, 'harmonics')),
    level: Float32Array.from(column(payload, 4 + 4 * n, n, 'harmonics')),
  }
}

function noiseIn(payload: Uint8Array | undefined): TakeData['signalToNoise'] {
  if (!payload) return []
  const n = countIn(payload, 0, 2, 100, 'signal-to-noise ratios')
  const values = column(payload, 0, 2 * n, 'signal-to-noise ratios')
  return Array.from({ length: n }, (_, k) => ({ middle: values[2 * k]!, level: values[2 * k + 1]! }))
}

/** What a take of the first version said beside its bytes. */
export interface OldInfo {
  sampleRate: number
  impulseStart: number
  sweep?:
    | {
      signalToNoise: { middle: number, level: number }[]
      harmonics: { order: number, frequencies: number[], level: number[] }[]
    }
    | undefined
}

/**
 * Bytes of the first version ('KVT1': uint32 points, 1 when there is coherence, samples; float32 frequencies,
 * re, im, coherence if any,
 * samples) as they are now. Bytes of today's version come back as they are. Throws RangeError as `decodeTake`.
 */
export function upgradeTakeBytes(bytes: Uint8Array, { sampleRate, impulseStart, sweep }: OldInfo): Uint8Array {
  const view = viewOf(bytes)
  if (bytes.length < 16 || view.getUint32(0, true) !== older) return bytes
  const [points, coherent, samples] = [4, 8, 12].map(at => view.getUint32(at, true)) as [number, number, number]
  const isPossible = points >= 2 && points <= mostPoints && samples <= mostSamples && coherent <= 1
  if (!isPossible || bytes.length !== 16 + 4 * (points * (3 + coherent) + samples)) {
    throw refusal('take.shortOrLong')
  }
  const part = (n: number, count: number) => column(bytes, 16 + 4 * points * n, count, 'data')
  const frequencies = part(0, points)
  const near = (f: number, k: number) => Math.abs(f / standardGrid[k]! - 1) < 1e-6
  const standard = points === standardGrid.length && frequencies.every(near)
  return encodeTake({
    curve: {
      frequencies: standard ? standardGrid : frequencies,
      re: part(1, points),
      im: part(2, points),
      coherence: coherent ? part(3, points) : null,
    },
    impulse: samples
      ? { samples: Float32Array.from(part(3 + coherent, samples)), sampleRate, start: impulseStart }
      : null,
    harmonics: (sweep?.harmonics ?? []).map(h => ({
      order: h.order,
      frequencies: Float32Array.from(h.frequencies),
      level: Float32Array.from(h.level),
    })),
    signalToNoise: sweep?.signalToNoise ?? [],
  })
}
