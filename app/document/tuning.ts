import { TuneAnswered } from '~~/core/contract'
import type { RunStep, StepFacts, TuneJob, Tuning } from '~~/core/tune'
import { wordsOf, type Message } from '~~/core/words'
import { createTask } from './task'

const open = () => new Worker(new URL('../workers/tune.worker.ts', import.meta.url), { type: 'module' })

/** The worker that knows the whole job: one question of a kind at a time, a newer one ends the older. */
export function createTuning(heard: {
  steps?: (steps: RunStep[]) => void
  part?: (part: number, what: Message) => void
  tuning?: (tuning: Tuning) => void
  failed: (why: string) => void
}) {
  function take(answer: TuneAnswered): boolean {
    if (answer.part !== undefined && answer.what) heard.part?.(answer.part, answer.what)
    if (answer.steps) heard.steps?.(answer.steps)
    if (answer.tuning) heard.tuning?.(answer.tuning)
    if (answer.why) heard.failed(wordsOf(answer.why))
    return !!(answer.steps || answer.tuning || answer.why)
  }
  const task = createTask<typeof TuneAnswered, { job: TuneJob, facts?: StepFacts }>(
    open, TuneAnswered, take, heard.failed)
  return {
    stop: task.stop,
    ask: (job: TuneJob, facts?: StepFacts) => task.ask({ job, ...(facts ? { facts } : {}) }),
  }
}
