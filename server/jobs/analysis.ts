import { parentPort } from 'node:worker_threads'
import * as v from 'valibot'
import { readWav, writeWav, type Wav } from '../../core/formats/wav'
import { textOfCurve, writeCurveText } from '../../core/formats/curveText'
import {
  analyseSweep,
  bandLevels,
  createSoundLevel,
  decayTimes,
  fractionalOctaves,
  powerSpectrum,
  smooth,
  speechTransmission,
  transferOf,
} from '../../core/measure'
import type { AnalysisJob } from '../../core/contract/analysis'

/** What an analysis answers: text or bytes, and headers that go with it. */
export interface AnalysisAnswer {
  type: string
  body: string | Uint8Array
  headers: Record<string, string>
}

function channel(wav: Wav, number: number): Float32Array {
  const found = wav.channels[number - 1]
  if (!found)
    throw new RangeError(
      `The recording has ${wav.channels.length} ${wav.channels.length === 1 ? 'channel' : 'channels'}; there is no `
      + `channel ${number}.`,
    )
  return found
}
function pair(wav: Wav, { mic, ref }: { mic: number, ref: number }) {
  if (mic === ref)
    throw new RangeError('Microphone and reference are the same channel: the result would be a flat line.')
  return [channel(wav, ref), channel(wav, mic)] as const
}
const json = (value: unknown, headers = {}): AnalysisAnswer => ({
  type: 'application/json',
  body: JSON.stringify(value, (_, x) => {
    if (typeof x === 'number' && !Number.isFinite(x)) return null
    return ArrayBuffer.isView(x) ? Array.from(x as Float64Array) : x
  }),
  headers,
})
const decays = (response: Float32Array, sampleRate: number, part: 1 | 3) => ({
  bands: decayTimes(response, sampleRate, part),
  sti: speechTransmission(response, sampleRate),
})

/** One analysis of one recording. Throws RangeError with what is wrong with it. */
export function analyse(job: AnalysisJob, bytes: Uint8Array): AnalysisAnswer {
  const wav = readWav(bytes)
  const { sampleRate } = wav
  switch (job.what) {
    case 'transfer': {
      const { query } = job
      const [reference, microphone] = pair(wav, query)
      const result = transferOf(reference, microphone, sampleRate, {
        length: query.length,
        averaging: query.blocks ? { kind: 'blocks', count: query.blocks } : { kind: 'all' },
        magnitude: query.magnitude,
        window: query.window,
        delay: query.delay === 'auto' ? 'auto' : query.delay / 1000,
      })
      const headers = {
        'x-kovrin-delay-ms': (result.delay * 1000).toFixed(4),
        'x-kovrin-blocks': `${result.blocks}`,
        ...(result.arrival
          ? {
              'x-kovrin-arrival-ms': (result.arrival.time * 1000).toFixed(4),
              'x-kovrin-polarity': `${result.arrival.polarity}`,
            }
          : {}),
      }
      return {
        type: 'text/csv; charset=utf-8',
        body: writeCurveText(textOfCurve(smooth(result.curve, query.smoothing)), 'csv'),
        headers,
      }
    }
    case 'sweep': {
      const { query } = job
      const [reference, microphone] = pair(wav, query)
      const result = analyseSweep(
        reference,
        microphone,
        { low: query.low, high: Math.min(query.high, sampleRate / 2), seconds: query.seconds, level: 0 },
        sampleRate,
        query.longest,
      )
      const headers = { 'x-kovrin-arrival-ms': (result.arrival * 1000).toFixed(4) }
      if (query.answer === 'wav')
        return {
          type: 'audio/wav',
          body: writeWav({ sampleRate, channels: [result.impulse] }),
          headers: { ...headers, 'x-kovrin-start-ms': (result.start * 1000).toFixed(4) },
        }
      const { impulse, ...rest } = result
      return json({ ...rest, frames: impulse.length, ...decays(impulse, sampleRate, query.part) }, headers)
    }
    case 'decay':
      return json({ sampleRate, ...decays(channel(wav, job.query.mic), sampleRate, job.query.part) })
    case 'bands': {
      const bands = fractionalOctaves(job.query.part, 16, Math.min(20_000, sampleRate / 2.2))
      const levels = bandLevels(powerSpectrum(channel(wav, job.query.mic), 2 ** 15), sampleRate, bands)
      return json({
        sampleRate,
        unit: 'dBFS',
        bands: bands.map((b, k) => ({
          band: b.name,
          middle: b.middle,
          low: b.low,
          high: b.high,
          level: levels[k],
        })),
      })
    }
    case 'level': {
      const { query } = job
      const meter = createSoundLevel(sampleRate, query.weighting, query.time)
      meter.push(channel(wav, query.mic))
      const { seconds, ...levels } = meter.read()
      return json({
        sampleRate,
        seconds,
        weighting: query.weighting,
        time: query.time,
        unit: query.calibration === 0 ? 'dBFS' : 'dB',
        ...Object.fromEntries(Object.entries(levels).map(([k, db]) => [k, db + query.calibration])),
      })
    }
  }
}

parentPort?.on('message', ({ id, job, bytes }: { id: number, job: AnalysisJob, bytes: Uint8Array }) => {
  try {
    parentPort!.postMessage({ id, answer: analyse(job, bytes) })
  }
  catch (error) {
    parentPort!.postMessage({
      id,
      why: (error as Error).message,
      ours: !(error instanceof RangeError || error instanceof v.ValiError),
    })
  }
})
