import { FitRequest, type FitAnswered } from '~~/core/contract'
import { wishOf } from '~~/core/contract/shape'
import { fitFilters } from '~~/core/tune'
import { serve } from './line'

/** Fits filters off the page; tells how far it is on the way. Whoever wants it no more ends the worker. */
serve(FitRequest, ({ id, body }) => {
  const tell = (answer: FitAnswered) => self.postMessage(answer)
  try {
    const result = fitFilters(wishOf(body), (part) => {
      tell({ id, part })
      return true
    })
    tell({ id, result })
  }
  catch (error) {
    if (!(error instanceof RangeError)) throw error
    tell({ id, why: error.message })
  }
})
