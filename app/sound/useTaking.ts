import type { Ref } from 'vue'
import type { AnalysisRequest } from '~~/core/contract'
import type { useFed } from '~/sound/useFed'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { message } from '~~/core/words'
import { phrase } from '~/parts/phrase'

/** Milliseconds that a take waits for what just changed to be heard. */
const waits = 10_000

interface Measuring {
  running: Ref<boolean>
  /** What just changed is not heard yet. */
  settling: Ref<boolean>
  fed: ReturnType<typeof useFed>
  toAnalysis: (request: AnalysisRequest) => void
}

/** Asking for a take: refused with the reason where it would hold something else than it says. */
export function useTaking({ running, settling, fed: { silent, others }, toAnalysis }: Measuring) {
  const view = useView()
  const notices = useNotices()
  const taking = ref(false)

  function ask() {
    taking.value = true
    // what just changed is taken as soon as it is heard
    if (settling.value) setTimeout(giveUp, waits)
    else toAnalysis({ type: 'take' })
  }
  function giveUp() {
    if (!taking.value || !settling.value) return
    taking.value = false
    notices.say('warn', message('take.notHeardYet'))
  }
  watch(settling, (still) => {
    if (!still && taking.value && running.value) toAnalysis({ type: 'take' })
  })
  /** Keeps what is heard; of a silent source only where it was said to be kept all the same. */
  function take(evenOf: string | null = null) {
    if (!view.cell)
      return notices.say(
        'warn',
        message('sweep.noCell'),
      )
    if (!running.value) return notices.say('warn', message('measure.startNoise'))
    if (!silent.value || silent.value.id === evenOf) return ask()
    const { id, name } = silent.value
    const heard = others.value.map(s => s.name).join(', ')
    notices.say(
      'warn',
      message('take.silent', { source: name, heard }),
      { act: { name: phrase('sound.keepAnyway'), run: () => take(id) } },
    )
  }
  return { taking, take }
}
