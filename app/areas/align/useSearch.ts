import { AlignAnswered, type AlignRequest } from '~~/core/contract'
import type { AlignCandidate, AlignMap } from '~~/core/tune'
import { hearFrom } from '~/workers/line'

/** One search for the best sum at a time, off the page. */
export function useSearch() {
  const busy = ref(false)
  const candidates = shallowRef<readonly AlignCandidate[]>([])
  const map = shallowRef<AlignMap | null>(null)
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
    map.value = null
    why.value = null
  }
  onBeforeUnmount(stop)
  return {
    busy, candidates, map, why, stop, clear,
    start(task: Omit<AlignRequest, 'id'>) {
      clear()
      busy.value = true
      worker = new Worker(new URL('../../workers/align.worker.ts', import.meta.url), { type: 'module' })
      hearFrom(worker, AlignAnswered, (answer) => {
        if (answer.id !== id) return
        candidates.value = answer.candidates ?? []
        map.value = answer.map ?? null
        why.value = answer.why ?? null
        stop()
      }, (words) => {
        why.value = `The search ended: ${words}`
        stop()
      })
      worker.postMessage({ id: ++id, ...task } satisfies AlignRequest)
    },
  }
}
