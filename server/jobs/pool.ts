import { Worker } from 'node:worker_threads'
import type { AnalysisAnswer } from './answer'
import type { AnalysisJob } from '../../core/contract/analysis'
import { gauge } from '../watch/metrics'
import { message, Refusal, wordsOf, type Message } from '../../core/words'

/** What was wrong with the recording, in words; or with how it was asked for. */
export class NotAnalysable extends Refusal {
  constructor(told: Message, readonly misread = false) { super(told) }
}
/** The queue is full, or the asker’s own share of it; `seconds` is when to come again. */
export class Busy extends Refusal {
  constructor(told: Message, readonly seconds: number, readonly own = false) { super(told) }
}

/** How much is taken on, and what one analysis may use: seconds, and bytes of memory over what is used without it. */
export interface Limits {
  waiting: number
  /** Of one asker. */
  each: number
  seconds: number
  bytes: number
}
const usual: Limits = { waiting: 16, each: 4, seconds: 120, bytes: 3 * 2 ** 30 }
const lookEvery = 50
/** Seconds after which whoever found the queue full may ask again. */
const askAgain = 5

interface Asked {
  who: string
  job: AnalysisJob
  bytes: Uint8Array<ArrayBuffer>
  resolve: (answer: AnalysisAnswer) => void
  reject: (error: Error) => void
}
interface Told {
  answer?: AnalysisAnswer
  told?: Message
  ours?: boolean
  misread?: boolean
}
const failureOf = (told: Message, ours = false, misread = false) =>
  ours ? new Error(wordsOf(told)) : new NotAnalysable(told, misread)

export type Pool = ReturnType<typeof createPool>

/** Runs analyses in a worker, one after the other; it is replaced when it dies or must be stopped. */
export function createPool(open: () => Worker, limits: Limits = usual, named?: string) {
  const queue: Asked[] = []
  let running: Asked | null = null
  /** When the askers that wait had their last turn, by a count of turns. */
  const turns = new Map<string, number>()
  let count = 0
  let worker: Worker | null = null
  let watch: NodeJS.Timeout | undefined

  function start() {
    const made = open()
    made.unref()
    made.on('message', ({ answer, told, ours, misread }: Told) => {
      if (worker === made) end(answer ?? failureOf(told ?? message('words', { text: '' }), ours, misread))
    })
    const gone = (why: string) => {
      if (worker !== made) return
      worker = null
      end(new Error(why))
    }
    made.on('error', error => gone(`The analysis died: ${error.message}`))
    made.on('exit', () => gone('The analysis died.'))
    return made
  }

  /** Ends the running analysis with its answer, or why there is none, and goes on with the next. */
  function end(outcome: AnalysisAnswer | Error) {
    clearInterval(watch)
    const asked = running
    running = null
    if (outcome instanceof Error) asked?.reject(outcome)
    else asked?.resolve(outcome)
    next()
  }

  /** Stops the running analysis, whatever it does: its worker is let go, and the next gets a new one. */
  function stop(why: Error) {
    const old = worker
    worker = null
    void old?.terminate()
    end(why)
  }

  /** Takes out of the queue what is next: of the asker whose last turn is the longest ago. */
  function nextOf(): Asked | null {
    const first = queue.reduce<Asked | null>((best, asked) =>
      (best && (turns.get(best.who) ?? 0) <= (turns.get(asked.who) ?? 0) ? best : asked), null)
    if (!first) return null
    queue.splice(queue.indexOf(first), 1)
    for (const who of turns.keys()) if (!queue.some(a => a.who === who)) turns.delete(who)
    turns.set(first.who, ++count)
    return first
  }

  function next() {
    if (running) return
    running = nextOf()
    if (!running) return
    worker ??= start()
    const { job, bytes } = running
    const began = Date.now()
    const before = process.memoryUsage.rss()
    worker.postMessage({ job, bytes }, [bytes.buffer])
    watch = setInterval(() => {
      if (Date.now() - began > limits.seconds * 1000)
        stop(new NotAnalysable(message('analysis.seconds', { seconds: limits.seconds })))
      else if (process.memoryUsage.rss() - before > limits.bytes)
        stop(new NotAnalysable(message('analysis.memory')))
    }, lookEvery)
  }

  if (named) gauge(named, 'Analyses that wait for their turn', () => queue.length)

  /**
   * Rejects with NotAnalysable for a recording that cannot be analysed within the limits, with Busy while the queue
   * is full, and with the signal's reason when the asker leaves.
   */
  return function run(
    job: AnalysisJob,
    recording: Uint8Array,
    left?: AbortSignal,
    who = '',
  ): Promise<AnalysisAnswer> {
    if (queue.length >= limits.waiting)
      return Promise.reject(new Busy(message('analysis.waiting', { count: queue.length, seconds: askAgain }), askAgain))
    const own = queue.filter(a => a.who === who).length
    if (own >= limits.each)
      return Promise.reject(new Busy(message('analysis.ownWaiting', { count: own, seconds: askAgain }), askAgain, true))
    return new Promise((resolve, reject) => {
      const asked: Asked = { who, job, bytes: new Uint8Array(recording), resolve, reject }
      const leave = () => {
        if (running === asked) return stop(new Error('The asker left.'))
        const at = queue.indexOf(asked)
        if (at >= 0) queue.splice(at, 1)
        reject(new Error('The asker left.'))
      }
      if (left?.aborted) return leave()
      left?.addEventListener('abort', leave, { once: true })
      queue.push(asked)
      next()
    })
  }
}

/** The analyses of this server. */
export const runAnalysis = createPool(() => {
  const path = process.env.KOVRIN_JOBS
  if (!path) throw new Error('KOVRIN_JOBS does not name the analysis worker: start Kovrin with npm start.')
  return new Worker(path, { resourceLimits: { maxOldGenerationSizeMb: 1024 } })
}, usual, 'kovrin_analyses_waiting')
