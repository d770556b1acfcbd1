import { parentPort } from 'node:worker_threads'
import * as v from 'valibot'
import { readWav, writeWav, type Wav } from '../../core/formats/wav'
import { textOfCurve, writeCurveText } from '../../core/formats/curveText'
import {
  analyseSweep,
  createBandMeter,
  createSoundLevel,
  decayTimes,
  fractionalOctaves,
  smooth,
  speechTransmission,
  timeConstants,
  transferOf,
  uncertaintyOf,
  whyNoDecay,
} from '../../core/measure'
import type { AnalysisJob, RecordingJob } from '../../core/contract/analysis'
import { alignment } from './alignment'
import { json, type AnalysisAnswer } from './answer'
import { NotUnderstood } from './form'
import { shape } from './shape'
import { message, refusal, toldOf, wordsOf, type Message } from '../../core/words'
import { speakEnglish } from '../../core/words/say'

/** Seconds that are analysed in one piece: the memory that it takes grows with them. */
const longestSweep = 120
const longestResponse = 60

function channel(wav: Wav, number: number): Float32Array {
  const found = wav.channels[number - 1]
  if (!found)
    throw refusal('analysis.noChannel', { channels: wav.channels.length, channel: number })
  return found
}
/** A channel that may not last longer than an analysis of all of it at once can hold. */
function whole(signal: Float32Array, sampleRate: number, seconds: number): Float32Array {
  if (signal.length > seconds * sampleRate)
    throw refusal('analysis.tooLong', { seconds: Math.round(signal.length / sampleRate), most: seconds })
  return signal
}
function pair(wav: Wav, { mic, ref }: { mic: number, ref: number }) {
  if (mic === ref)
    throw refusal('analysis.sameChannel')
  return [channel(wav, ref), channel(wav, mic)] as const
}
interface RoomQuery {
  part: 1 | 3
  speech?: number[] | undefined
  noise?: number[] | undefined
}
/** Warnings beside an answer that is no JSON: one header, each percent-encoded, with commas between. */
const warningHeader = (warnings: readonly Message[]): Record<string, string> =>
  warnings.length ? { 'x-kovrin-warnings': warnings.map(w => encodeURIComponent(wordsOf(w))).join(',') } : {}

/** Decay, clarity and speech of a response, and what speaks against them. */
function roomFigures(response: Float32Array, sampleRate: number, { part, speech, noise }: RoomQuery) {
  const bands = decayTimes(response, sampleRate, part)
  const levels = speech && { speech, noise: noise ?? Array<number>(7).fill(-100) }
  const sti = speechTransmission(response, sampleRate, levels)
  const none = whyNoDecay(bands)
  const warnings = none
    ? [none]
    : bands.flatMap(b => b.doubts.map(d => message('words.because', { what: b.band, why: d })))
  if (sti === null && !none) warnings.push(message('analysis.noSpeechIndex'))
  return { bands, sti, warnings }
}

function soundLevel(
  signal: Float32Array,
  sampleRate: number,
  { weighting, time, calibration, running, exceeded }: Extract<RecordingJob, { what: 'level' }>['query'],
) {
  const meter = createSoundLevel(sampleRate, weighting, time, running)
  meter.push(signal)
  const { seconds, runningOver, exceeded: statistics, ...levels } = meter.read()
  const shown = (db: number | null) => (db === null ? null : db + calibration)
  return {
    sampleRate,
    seconds,
    weighting,
    time,
    unit: calibration === 0 ? 'dBFS' : 'dB',
    ...Object.fromEntries(Object.entries(levels).map(([k, db]) => [k, shown(db)])),
    runningOver,
    exceeded: Object.fromEntries([
      ...Object.entries(statistics).map(([k, db]) => [k, shown(db)]),
      ...(exceeded === undefined ? [] : [[`L${exceeded}`, shown(meter.exceeded(exceeded))]]),
    ]),
  }
}

/** One analysis of one recording. Throws RangeError with what is wrong with it. */
export function analyse(job: RecordingJob, bytes: Uint8Array): AnalysisAnswer {
  const wav = readWav(bytes)
  const { sampleRate } = wav
  switch (job.what) {
    case 'transfer': {
      const { query } = job
      const [reference, microphone] = pair(wav, query)
      const result = transferOf(reference, microphone, sampleRate, {
        length: query.length,
        averaging: query.blocks ? { kind: 'blocks', count: query.blocks } : { kind: 'all' },
        estimator: query.estimator,
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
      const curve = smooth(result.curve, query.smoothing)
      return {
        type: 'text/csv; charset=utf-8',
        body: writeCurveText(textOfCurve(curve, uncertaintyOf(curve)), 'csv'),
        headers: { ...headers, ...warningHeader(result.warnings) },
      }
    }
    case 'sweep': {
      const { query } = job
      const [reference, microphone] = pair(wav, query).map(x => whole(x, sampleRate, longestSweep))
      const result = analyseSweep(
        reference!,
        microphone!,
        { low: query.low, high: Math.min(query.high, sampleRate / 2), seconds: query.seconds, level: 0 },
        sampleRate,
        query.longest,
      )
      const headers = { 'x-kovrin-arrival-ms': (result.arrival * 1000).toFixed(4) }
      if (query.answer === 'wav')
        return {
          type: 'audio/wav',
          body: writeWav({ sampleRate, channels: [result.impulse] }),
          headers: {
            ...headers,
            ...warningHeader(result.warnings),
            'x-kovrin-start-ms': (result.start * 1000).toFixed(4),
          },
        }
      const { impulse, curve, warnings, total, ...rest } = result
      const room = roomFigures(impulse, sampleRate, query)
      return json(
        {
          ...rest,
          frames: impulse.length,
          total: { frequencies: total.frequencies, thd: total.harmonic, thdWithNoise: total.withNoise },
          curve: { ...curve, unit: 'complex ratio on `frequencies`, delay taken out' },
          ...room,
          warnings: [...warnings, ...room.warnings],
        },
        { ...headers, ...warningHeader(warnings) },
      )
    }
    case 'decay': {
      const response = whole(channel(wav, job.query.mic), sampleRate, longestResponse)
      return json({ sampleRate, ...roomFigures(response, sampleRate, job.query) })
    }
    case 'bands': {
      const bands = fractionalOctaves(job.query.part, 20, Math.min(20_000, sampleRate / 2.2))
      const meter = createBandMeter(sampleRate, bands, timeConstants[job.query.time])
      meter.push(channel(wav, job.query.mic))
      meter.finish()
      const levels = meter.equivalent()
      const largest = meter.largest()
      return json({
        sampleRate,
        unit: 'dBFS',
        time: job.query.time,
        bands: bands.map((b, k) => ({
          band: b.name,
          middle: b.middle,
          low: b.low,
          high: b.high,
          level: levels[k],
          largest: largest[k],
        })),
      })
    }
    case 'level':
      return json(soundLevel(channel(wav, job.query.mic), sampleRate, job.query))
  }
}

async function answerOf(job: AnalysisJob, bytes: Uint8Array): Promise<AnalysisAnswer> {
  if ('body' in job) return shape(job)
  return 'form' in job ? alignment(job, bytes) : analyse(job, bytes)
}

if (parentPort) speakEnglish()
parentPort?.on('message', async ({ job, bytes }: { job: AnalysisJob, bytes: Uint8Array }) => {
  try {
    parentPort!.postMessage({ answer: await answerOf(job, bytes) })
  }
  catch (error) {
    const misread = error instanceof NotUnderstood
    parentPort!.postMessage({
      told: toldOf(error),
      ours: !(error instanceof RangeError || error instanceof v.ValiError || misread),
      misread,
    })
  }
})
