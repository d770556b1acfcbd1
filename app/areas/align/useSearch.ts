import { AlignAnswered, type AlignRequest } from '~~/core/contract'
import type { AlignMap, VariantCandidate } from '~~/core/tune'
import { hearFrom } from '~/workers/line'
import { wordsOf } from '~~/core/words'

/** One search for the best sum at a time, off the page: how far it is, what came of it, and how to stop it. */
export function useSearch() {
  const busy = ref(false)
  const part = ref(0)
  const candidates = shallowRef<readonly VariantCandidate[]>([])
  const maps = shallowRef<readonly AlignMap[]>([])
  const why = ref<string | null>(null)
  let worker: Worker | null = null
  let id = 0
  function stop() {
    worker?.terminate()
    worker = null
    busy.value = false
  }
  function clear() {
    stop()
    candidates.value = []
    maps.value = []
    why.value = null
  }
  function take(answer: AlignAnswered) {
    if (answer.id !== id) return
    part.value = answer.part ?? part.value
    if (!answer.candidates && !answer.why) return
    candidates.value = answer.candidates ?? []
    maps.value = answer.maps ?? []
    why.value = answer.why ? wordsOf(answer.why) : null
    stop()
  }
  onBeforeUnmount(stop)
  return {
    busy, part, candidates, maps, why, stop, clear,
    start(task: Omit<AlignRequest, 'id'>) {
      clear()
      busy.value = true
      part.value = 0
      worker = new Worker(new URL('../../workers/align.worker.ts', import.meta.url), { type: 'module' })
      hearFrom(worker, AlignAnswered, take, (words) => {
        why.value = `The search ended: ${words}`
        stop()
      })
      worker.postMessage({ id: ++id, ...task } satisfies AlignRequest)
    },
  }
}
