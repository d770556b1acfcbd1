import type { PartsJob } from '../../core/contract/analysis'
import { readWav } from '../../core/formats/wav'
import { alignImpulses, sumImpulses, type Responses } from '../../core/tune'
import { json, type AnalysisAnswer } from './answer'
import { readForm, type Part } from './form'
import { levelOf, phaseOf } from './text'
import { refusal, toldOf } from '../../core/words'

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
      if (error instanceof RangeError) throw refusal('align.source', { name, why: toldOf(error) })
      throw error
    }
  })
  const first = read[0]
  if (!first) throw refusal('align.noSource')
  const positions = first.wav.channels.length
  if (positions > mostPositions) throw refusal('align.manyPositions', { most: mostPositions, positions })
  for (const { name, wav } of read) {
    if (wav.channels.length !== positions)
      throw refusal('align.positionsDiffer', { name, has: wav.channels.length, first: first.name, positions })
    if (wav.sampleRate !== first.wav.sampleRate)
      throw refusal('align.ratesDiffer', {
        name,
        sampleRate: wav.sampleRate,
        first: first.name,
        firstRate: first.wav.sampleRate,
      })
  }
  const samples = read.reduce((s, { wav }) => s + wav.channels.length * (wav.channels[0]?.length ?? 0), 0)
  if (samples > mostSamples) throw refusal('align.manySamples', { samples, most: mostSamples })
  const names = read.map(r => r.name)
  return {
    sampleRate: first.wav.sampleRate,
    names,
    samples,
    of(name) {
      const found = read.find(r => r.name === name)
      if (found) return found.wav.channels
      throw refusal('align.noSuchSource', { name, names: names.map(n => `“${n}”`).join(', ') })
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
    return json(answer)
  }
  const { files, options } = await readForm('sum', bytes, job.form)
  const sources = sourcesOf(files)
  const { sampleRate } = sources
  if (sources.samples > mostToSum)
    throw refusal('align.manyToSum', { samples: sources.samples, most: mostToSum })
  const parts = Object.entries(options.sources).map(([name, part]) => ({ ...part, responses: sources.of(name) }))
  const curves = sumImpulses(parts, sampleRate)
  const lines = curves.flatMap(({ frequencies, re, im }, n) =>
    Array.from(frequencies, (f, k) => `${n + 1},${f},${levelOf(re[k]!, im[k]!)},${phaseOf(re[k]!, im[k]!)}`))
  return {
    type: 'text/csv', body: `position,frequency_hz,magnitude_db,phase_deg\n${lines.join('\n')}\n`, headers: {},
  }
}
