import { TuneAnswered, type TuneRequest } from '~~/core/contract'
import type { RunStep, StepFacts, TuneJob, Tuning } from '~~/core/tune'
import { hearFrom } from '~/workers/line'
import { wordsOf } from '~~/core/words'

/** The worker that knows the whole job: one question of a kind at a time, a newer one ends the older. */
export function createTuning(heard: {
  steps?: (steps: RunStep[]) => void
  part?: (part: number, what: string) => void
  tuning?: (tuning: Tuning) => void
  failed: (why: string) => void
}) {
  let worker: Worker | null = null
  let id = 0
  function stop() {
    worker?.terminate()
    worker = null
  }
  function take(answer: TuneAnswered) {
    if (answer.id !== id) return
    if (answer.part !== undefined) heard.part?.(answer.part, answer.what ?? '')
    if (answer.steps) heard.steps?.(answer.steps)
    if (answer.tuning) heard.tuning?.(answer.tuning)
    if (answer.why) heard.failed(wordsOf(answer.why))
    if (answer.steps || answer.tuning || answer.why) stop()
  }
  return {
    stop,
    ask(job: TuneJob, facts?: StepFacts) {
      stop()
      worker = new Worker(new URL('../workers/tune.worker.ts', import.meta.url), { type: 'module' })
      hearFrom(worker, TuneAnswered, take, heard.failed)
      worker.postMessage({ id: ++id, job, ...(facts ? { facts } : {}) } satisfies TuneRequest)
    },
  }
}
