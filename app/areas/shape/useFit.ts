import { FitAnswered, type FitRequest } from '~~/core/contract'
import type { FitResult } from '~~/core/tune'
import { wordsOf } from '~~/core/words'
import { createTask } from '~/document/task'
import { phrase } from '~/parts/phrase'

const open = () => new Worker(new URL('../../workers/fit.worker.ts', import.meta.url), { type: 'module' })

/** One fit at a time, off the page: how far it is, what came of it, and how to stop it. */
export function useFit() {
  /** Null while none goes on. */
  const part = ref<number | null>(null)
  const result = shallowRef<FitResult | null>(null)
  const worth = shallowRef<readonly number[]>([])
  const why = ref<string | null>(null)
  function take(answer: FitAnswered): boolean {
    if (answer.part !== undefined) part.value = answer.part
    if (answer.worth) worth.value = answer.worth
    if (answer.result) result.value = answer.result
    if (answer.why) why.value = wordsOf(answer.why)
    const isLast = !!(answer.result || answer.why)
    if (isLast) part.value = null
    return isLast
  }
  const task = createTask<typeof FitAnswered, Omit<FitRequest, 'id'>>(open, FitAnswered, take, (words) => {
    why.value = phrase('shape.theFitEnded', { words })
    part.value = null
  })
  function stop() {
    task.stop()
    part.value = null
  }
  onBeforeUnmount(stop)
  return {
    part,
    result,
    worth,
    why,
    stop,
    start(request: Omit<FitRequest, 'id'>) {
      result.value = null
      why.value = null
      part.value = 0
      task.ask(request)
    },
  }
}
