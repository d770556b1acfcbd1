import type { SweepAnswer, Swept } from '~~/core/contract'
import type { SweepPlan } from '~~/core/dsp'
import type { Seconds } from '~~/core/units'
import { Refusal } from '~~/core/words'
import type { useListen } from './listen'

/** Whoever waits for a sweep hears by this that it was ended. */
export class Ended extends Error {}

/** Records one sweep at a time: sends it out when the analysis is ready for it, and gives what was heard. */
export function createRecorder(listen: ReturnType<typeof useListen>, progress: (part: number) => void) {
  let endNow: (() => void) | null = null
  const record = (plan: SweepPlan, repeats: number, tail: Seconds) =>
    new Promise<Swept>((resolve, reject) => {
      const over = (settle: () => void) => {
        listen.hearSweep(null)
        endNow = null
        settle()
      }
      listen.hearSweep((answer: SweepAnswer) => {
        switch (answer.type) {
          case 'sweeping': return progress(answer.done)
          case 'sweep-now': return listen.toGenerator({ type: 'sweep', plan })
          case 'swept': return over(() => resolve(answer))
          case 'no-sweep': return over(() => reject(new Refusal(answer.why)))
        }
      })
      endNow = () =>
        over(() => {
          listen.toAnalysis({ type: 'end-recording' })
          listen.toGenerator({ type: 'hush' })
          reject(new Ended())
        })
      listen.toAnalysis({ type: 'record', plan, repeats, tail })
    })
  return { record, end: () => endNow?.() }
}
