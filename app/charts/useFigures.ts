import { FiguresAnswer, type FiguresRequest } from '~~/core/contract'
import { hearFrom } from '~/workers/line'
import type { Drawn } from './traces'
import { useNotices } from '~/parts/notices'
import { message } from '~~/core/words'

/** What an impulse response says of the room, computed off the page; null while it is, or where there is none. */
export function useFigures(drawn: () => Drawn | null, what: () => FiguresRequest['what']) {
  const answer = shallowRef<FiguresAnswer | null>(null)
  const worker = new Worker(new URL('../workers/figures.worker.ts', import.meta.url), { type: 'module' })
  onBeforeUnmount(() => worker.terminate())
  let busy = false
  let wanted = false
  let id = 0
  function ask() {
    const r = drawn()?.response
    if (!r) {
      answer.value = null
      return
    }
    wanted = busy
    if (busy) return
    busy = true
    const { samples, sampleRate, start } = r
    worker.postMessage({ id: ++id, samples, sampleRate, start, what: what() } satisfies FiguresRequest)
  }
  function take(next: FiguresAnswer | null) {
    busy = false
    answer.value = next
    if (wanted) ask()
  }
  hearFrom(worker, FiguresAnswer, take, (why) => {
    useNotices().say('error', message('decay.stopped', { why }))
    take(null)
  })
  watch([() => drawn()?.response, () => JSON.stringify(what())], ask, { immediate: true })
  return answer
}
