import { AlignRequest, type AlignAnswered } from '~~/core/contract/workers/aligning'
import { alignVariants } from '~~/core/tune'
import { serve } from './line'
import { toldOf } from '~~/core/words'

/** Looks for the delays, polarities and filters with the best sum of two sources, off the page. */
serve(AlignRequest, ({ id, variants, ...asked }) => {
  const tell = (answer: AlignAnswered) => self.postMessage(answer)
  const onProgress = (part: number) => {
    tell({ id, part })
    return true // stopped by ending this worker
  }
  try {
    tell({ id, ...alignVariants({ ...asked, polarity: true }, variants, onProgress) })
  }
  catch (error) {
    if (!(error instanceof RangeError)) throw error
    tell({ id, why: toldOf(error) })
  }
})
