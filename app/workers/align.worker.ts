import { AlignRequest, type AlignAnswered } from '~~/core/contract'
import { alignMap, alignSources } from '~~/core/tune'
import { serve } from './line'

/** Looks for the delays and polarities with the best sum of two sources, off the page. */
serve(AlignRequest, ({ id, ...asked }) => {
  const tell = (answer: AlignAnswered) => self.postMessage(answer)
  const task = { ...asked, polarity: true }
  try {
    tell({ id, candidates: alignSources(task), map: alignMap(task) })
  }
  catch (error) {
    if (!(error instanceof RangeError)) throw error
    tell({ id, why: error.message })
  }
})
