import type { PartsJob } from '../../core/contract/analysis'
import { readWav } from '../../core/formats/wav'
import { alignImpulses, sumImpulses, type Responses } from '../../core/tune'
import type { AnalysisAnswer } from './answer'
import { readForm, type Part } from './form'
import { levelOf, phaseOf } from './text'

/** Samples of all files together: what is computed from them grows with it. */
const mostSamples = 24_000_000
const mostToSum = 6_000_000
const mostPositions = 64

interface Sources {
  sampleRate: number
  of: (name: string) => Responses
  names: string[]
  samples: number
}

/** The files as responses by source, which must have the same positions and rate. Throws RangeError where not. */
function sourcesOf(files: readonly Part[]): Sources {
  const read = files.map(({ name, bytes }) => {
    try {
      return { name, wav: readWav(bytes) }
    }
    catch (error) {
      if (error instanceof RangeError) throw new RangeError(`“${name}”: ${error.message}`)
      throw error
    }
  })
  const first = read[0]
  if (!first) throw new RangeError('There is no source: send one WAV part for each, named by it.')
  const positions = first.wav.channels.length
  if (positions > mostPositions) throw new RangeError(`At most ${mostPositions} positions are taken, not ${positions}.`)
  for (const { name, wav } of read) {
    if (wav.channels.length !== positions)
      throw new RangeError(`“${name}” has ${wav.channels.length} positions, “${first.name}” has ${positions}.`)
    if (wav.sampleRate !== first.wav.sampleRate)
      throw new RangeError(`“${name}” runs at ${wav.sampleRate} Hz, “${first.name}” at ${first.wav.sampleRate} Hz.`)
  }
  const samples = read.reduce((s, { wav }) => s + wav.channels.length * (wav.channels[0]?.length ?? 0), 0)
  if (samples > mostSamples) throw new RangeError(`${samples} samples are too many; at most ${mostSamples} are taken.`)
  const names = read.map(r => r.name)
  return {
    sampleRate: first.wav.sampleRate,
    names,
    samples,
    of(name) {
      const found = read.find(r => r.name === name)
      if (found) return found.wav.channels
      throw new RangeError(`There is no source “${name}”; there are ${names.map(n => `“${n}”`).join(', ')}.`)
    },
  }
}

/**
 * One analysis of several sources. Rejects with NotUnderstood for the form, with RangeError for what is wrong with its
 * files or with what is asked of them.
 */
export async function alignment(job: PartsJob, bytes: Uint8Array): Promise<AnalysisAnswer> {
  if (job.what === 'align') {
    const { files, options } = await readForm('align', bytes, job.form)
    const sources = sourcesOf(files)
    const { sampleRate } = sources
    const { reference, move, ...rest } = options
    const answer = alignImpulses({ ...rest, sampleRate, reference: sources.of(reference), move: sources.of(move) })
    return { type: 'application/json', body: JSON.stringify(answer), headers: {} }
  }
  const { files, options } = await readForm('sum', bytes, job.form)
  const sources = sourcesOf(files)
  const { sampleRate } = sources
  if (sources.samples > mostToSum)
    throw new RangeError(`${sources.samples} samples are too many to sum; at most ${mostToSum}: cut the responses.`)
  const parts = Object.entries(options.sources).map(([name, part]) => ({ ...part, responses: sources.of(name) }))
  const curves = sumImpulses(parts, sampleRate)
  const lines = curves.flatMap(({ frequencies, re, im }, n) =>
    Array.from(frequencies, (f, k) => `${n + 1},${f},${levelOf(re[k]!, im[k]!)},${phaseOf(re[k]!, im[k]!)}`))
  return {
    type: 'text/csv', body: `position,frequency_hz,magnitude_db,phase_deg\n${lines.join('\n')}\n`, headers: {},
  }
}
