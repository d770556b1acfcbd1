import { hearFrom, type Checked } from '~/workers/line'
import type * as v from 'valibot'

/** What a worker tells of one question: parts on the way, and an answer that is the last. */
interface Answered { id: number }

/**
 * One question at a time to a worker that computes: a newer one ends the older, and whoever wants no answer any more
 * ends it. `take` is given each answer and tells whether it was the last; `failed` hears why there is none.
 */
export function createTask<S extends Checked, Q extends object>(
  open: () => Worker,
  schema: S,
  take: (answer: v.InferOutput<S> & Answered) => boolean,
  failed: (why: string) => void,
) {
  let worker: Worker | null = null
  let id = 0
  function stop() {
    worker?.terminate()
    worker = null
  }
  return {
    stop,
    ask(question: Q) {
      stop()
      const asked = ++id
      worker = open()
      const hear = (answer: v.InferOutput<S>) => {
        const told = answer as v.InferOutput<S> & Answered
        if (told.id === asked && worker && take(told)) stop()
      }
      hearFrom(worker, schema, hear, (why) => {
        stop()
        failed(why)
      })
      worker.postMessage({ ...question, id: asked })
    },
  }
}
