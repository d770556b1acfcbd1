import { AlignAnswered, type AlignRequest } from '~~/core/contract'
import type { AlignMap, VariantCandidate } from '~~/core/tune'
import { wordsOf } from '~~/core/words'
import { createTask } from '~/document/task'
import { phrase } from '~/parts/phrase'

const open = () => new Worker(new URL('../../workers/align.worker.ts', import.meta.url), { type: 'module' })

/** One search for the best sum at a time, off the page: how far it is, what came of it, and how to stop it. */
export function useSearch() {
  const busy = ref(false)
  const part = ref(0)
  const candidates = shallowRef<readonly VariantCandidate[]>([])
  const maps = shallowRef<readonly AlignMap[]>([])
  const why = ref<string | null>(null)
  function take(answer: AlignAnswered): boolean {
    part.value = answer.part ?? part.value
    if (!answer.candidates && !answer.why) return false
    candidates.value = answer.candidates ?? []
    maps.value = answer.maps ?? []
    why.value = answer.why ? wordsOf(answer.why) : null
    busy.value = false
    return true
  }
  const task = createTask<typeof AlignAnswered, Omit<AlignRequest, 'id'>>(open, AlignAnswered, take, (words) => {
    why.value = phrase('align.theSearchEnded', { words })
    busy.value = false
  })
  function stop() {
    task.stop()
    busy.value = false
  }
  function clear() {
    stop()
    candidates.value = []
    maps.value = []
    why.value = null
  }
  onBeforeUnmount(stop)
  return {
    busy, part, candidates, maps, why, stop, clear,
    start(wanted: Omit<AlignRequest, 'id'>) {
      clear()
      busy.value = true
      part.value = 0
      task.ask(wanted)
    },
  }
}
