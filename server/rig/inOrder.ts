const tails = new Map<string, Promise<unknown>>()

/** Runs jobs of the same key one after another, so that what was asked first reaches the device first. */
export function inOrder<T>(key: string, job: () => Promise<T>): Promise<T> {
  const run = (tails.get(key) ?? Promise.resolve()).then(job, job)
  const tail = run
    .catch(() => {})
    .finally(() => {
      if (tails.get(key) === tail) tails.delete(key)
    })
  tails.set(key, tail)
  return run
}
