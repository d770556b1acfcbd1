import { Worker } from 'node:worker_threads'
import type { AnalysisAnswer } from './analysis'
import type { AnalysisJob } from '../../core/contract/analysis'

interface Waiting {
  resolve: (answer: AnalysisAnswer) => void
  reject: (error: Error) => void
}

/** What was wrong with the recording, in words. */
export class NotAnalysable extends Error {}

let worker: Worker | null = null
let next = 0
const waiting = new Map<number, Waiting>()
const mostWaiting = 16

function open(): Worker {
  const path = process.env.KOVRIN_JOBS
  if (!path) throw new Error('KOVRIN_JOBS does not name the analysis worker: start Kovrin with npm start.')
  const made = new Worker(path)
  made.unref()
  made.on(
    'message',
    ({ id, answer, why, ours }: { id: number, answer?: AnalysisAnswer, why?: string, ours?: boolean }) => {
      const asked = waiting.get(id)
      waiting.delete(id)
      if (answer) asked?.resolve(answer)
      else asked?.reject(ours ? new Error(why) : new NotAnalysable(why))
    },
  )
  const gone = (error?: Error) => {
    if (worker === made) worker = null
    for (const { reject } of waiting.values()) reject(error ?? new Error('The analysis was ended.'))
    waiting.clear()
  }
  made.on('error', gone)
  made.on('exit', () => gone())
  return made
}

/**
 * Runs an analysis in a worker thread, one after the other. Rejects with NotAnalysable for a recording that
 * cannot be.
 */
export function runAnalysis(job: AnalysisJob, bytes: Buffer): Promise<AnalysisAnswer> {
  if (waiting.size >= mostWaiting)
    return Promise.reject(new NotAnalysable(`${mostWaiting} analyses are waiting already; ask again later.`))
  worker ??= open()
  const id = next++
  const own = new Uint8Array(bytes) // its own memory, to be handed over
  return new Promise((resolve, reject) => {
    waiting.set(id, { resolve, reject })
    worker!.postMessage({ id, job, bytes: own }, [own.buffer])
  })
}
