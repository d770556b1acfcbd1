import * as v from 'valibot'

export type Checked = v.GenericSchema

/** What a worker answers, checked by its schema; what does not fit, and what stops it, is told to `fail`. */
export function hearFrom<S extends Checked>(
  worker: Worker,
  schema: S,
  use: (answer: v.InferOutput<S>) => void,
  fail: (why: string) => void,
) {
  worker.onmessage = (event: MessageEvent<unknown>) => {
    const told = v.safeParse(schema, event.data)
    if (told.success) use(told.output)
    else fail(`It answered what nobody understands: ${v.summarize(told.issues)}`)
  }
  worker.onerror = event => fail(event.message)
}

/** What the page asks of a worker, checked by its schema; what is thrown on the way stops the worker's task loudly. */
export function serve<S extends Checked>(schema: S, handle: (request: v.InferOutput<S>) => void) {
  self.onmessage = (event: MessageEvent<unknown>) => handle(v.parse(schema, event.data))
}
