/** Longest time in ms that one piece of work keeps everything else waiting. */
const longest = 5

/** Lets everything else that waits have its turn. */
export const turn = () => new Promise<void>(resolve => void setImmediate(resolve))

/** Runs work that stops between its parts, and lets others have their turn between them: nobody waits for the whole. */
export async function inTurns<T>(work: Generator<unknown, T>): Promise<T> {
  for (let began = performance.now(); ;) {
    const step = work.next()
    if (step.done) return step.value
    if (performance.now() - began < longest) continue
    await turn()
    began = performance.now()
  }
}
