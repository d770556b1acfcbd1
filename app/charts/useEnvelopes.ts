import type { Drawn } from '~/charts/traces'
import { FiguresAnswer, type FiguresRequest } from '~~/core/contract'
import { hearFrom } from '~/workers/line'
import { useNotices } from '~/parts/notices'
import { message } from '~~/core/words'

/**
 * Hilbert envelopes of the responses drawn, by their samples; computed off the page, one after the other, each
 * once.
 */
export function useEnvelopes(drawn: () => Drawn[], wanted: () => boolean) {
  const known = new WeakMap<Float32Array, Float32Array>()
  const arrived = ref(0)
  const waiting: Float32Array[] = []
  let worker: Worker | null = null
  let busy: Float32Array | null = null
  function next() {
    busy = waiting.shift() ?? null
    if (busy)
      worker!.postMessage({
        id: 0,
        samples: busy,
        sampleRate: 1,
        start: 0,
        what: { kind: 'envelope' },
      } satisfies FiguresRequest)
  }
  watch(
    () => (wanted() ? drawn().map(d => d.response!.samples) : []),
    (list) => {
      if (!list.length) return
      if (!worker) {
        worker = new Worker(new URL('../workers/figures.worker.ts', import.meta.url), { type: 'module' })
        const use = (answer: FiguresAnswer) => {
          known.set(busy!, answer.envelope!)
          arrived.value++
          next()
        }
        hearFrom(worker, FiguresAnswer, use, (why) => {
          useNotices().say('error', message('envelope.stopped', { why }))
          next()
        })
      }
      waiting.splice(0, waiting.length, ...list.filter(samples => samples !== busy && !known.has(samples)))
      if (!busy) next()
    },
    { immediate: true },
  )
  onBeforeUnmount(() => worker?.terminate())
  /** The envelope of these samples; undefined while it is computed. */
  return (samples: Float32Array) => {
    void arrived.value
    return known.get(samples)
  }
}
