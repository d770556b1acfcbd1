import { TuneRequest, type TuneAnswered } from '~~/core/contract/workers/tuning'
import { proposeAll, runSheet } from '~~/core/tune'
import { serve } from './line'
import { toldOf, type Message } from '~~/core/words'

/** How the steps of a job stand, or what would tune it, off the page. */
serve(TuneRequest, ({ id, job, facts }) => {
  const tell = (answer: TuneAnswered) => self.postMessage(answer)
  const onProgress = (part: number, what: Message) => {
    tell({ id, part, what })
    return true // stopped by ending this worker
  }
  try {
    tell(facts ? { id, steps: runSheet(job, job.rig, facts) } : { id, tuning: proposeAll(job, onProgress) })
  }
  catch (error) {
    if (!(error instanceof RangeError)) throw error
    tell({ id, why: toldOf(error) })
  }
})
