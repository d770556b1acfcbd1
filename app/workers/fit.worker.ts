import { FitRequest, type FitAnswered } from '~~/core/contract/workers/fitting'
import { wishOf } from '~~/core/contract/shape'
import { ringingModes } from '~~/core/measure'
import { fitFewest, fitFilters, worthOf, type FitTask } from '~~/core/tune'
import { serve } from './line'
import { toldOf } from '~~/core/words'

/** Modes that most of the responses tell of, each once, with its decay in the middle of them. */
function modesOf(responses: NonNullable<FitRequest['responses']>) {
  const found = responses.flatMap(({ samples, sampleRate, start }) =>
    ringingModes(samples, sampleRate, Math.max(0, Math.round(-start * sampleRate))))
  const groups: (typeof found)[] = []
  for (const mode of found) {
    const group = groups.find(g => Math.abs(Math.log2(g[0]!.frequency / mode.frequency)) < 1 / 12)
    if (group) group.push(mode)
    else groups.push([mode])
  }
  const middle = (list: number[]) => list.sort((a, b) => a - b)[list.length >> 1]!
  return groups
    .filter(g => g.length > responses.length / 2)
    .map(g => ({ frequency: middle(g.map(m => m.frequency)), decay: middle(g.map(m => m.decay)) }))
}

/** Fits filters off the page; tells how far it is on the way. Whoever wants it no more ends the worker. */
serve(FitRequest, ({ id, body, enough, responses = [] }) => {
  const tell = (answer: FitAnswered) => self.postMessage(answer)
  const onProgress = (part: number) => {
    tell({ id, part })
    return true
  }
  try {
    const wish: FitTask = { ...wishOf(body), modes: modesOf(responses) }
    const result = enough === undefined ? fitFilters(wish, onProgress) : fitFewest(wish, enough, onProgress)
    tell({ id, result, worth: worthOf(wish, result) })
  }
  catch (error) {
    if (!(error instanceof RangeError)) throw error
    tell({ id, why: toldOf(error) })
  }
})
