import { FitAnswered, type FitRequest } from '~~/core/contract'
import type { FitResult } from '~~/core/tune'
import { hearFrom } from '~/workers/line'
import { wordsOf } from '~~/core/words'

/** One fit at a time, off the page: how far it is, what came of it, and how to stop it. */
export function useFit() {
  const part = ref<number | null>(null)
  const result = shallowRef<FitResult | null>(null)
  const worth = shallowRef<readonly number[]>([])
  const why = ref<string | null>(null)
  let worker: Worker | null = null
  let id = 0
  function stop() {
    worker?.terminate()
    worker = null
    part.value = null
  }
  onBeforeUnmount(stop)
  function take(answer: FitAnswered) {
    if (answer.id !== id) return
    if (answer.part !== undefined) part.value = answer.part
    if (answer.worth) worth.value = answer.worth
    if (answer.result) result.value = answer.result
    if (answer.why) why.value = wordsOf(answer.why)
    if (answer.result || answer.why) stop()
  }
  return {
    part,
    result,
    worth,
    why,
    stop,
    start(request: Omit<FitRequest, 'id'>) {
      stop()
      result.value = null
      why.value = null
      part.value = 0
      worker = new Worker(new URL('../../workers/fit.worker.ts', import.meta.url), { type: 'module' })
      hearFrom(worker, FitAnswered, take, (words) => {
        why.value = `The fit ended: ${words}`
        stop()
      })
      worker.postMessage({ id: ++id, ...request } satisfies FitRequest)
    },
  }
}
