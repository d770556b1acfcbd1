import { Worker } from 'node:worker_threads'
import { describe, expect, it } from 'vitest'
import type { AnalysisJob } from '../../core/contract/analysis'
import { Busy, createPool, NotAnalysable } from './pool'

/** A worker that does what the first byte of its recording says. */
const source = `
const { parentPort } = require('node:worker_threads')
const kept = []
parentPort.on('message', ({ bytes }) => {
  const told = body => parentPort.postMessage({ answer: { type: 'text/plain', body, headers: {} } })
  if (bytes[0] === 0) told('done')
  else if (bytes[0] === 1) for (;;);
  else if (bytes[0] === 2) for (;;) kept.push(new Uint8Array(2 ** 26).fill(1))
  else if (bytes[0] === 3) process.exit(3)
  else parentPort.postMessage({ why: 'No sound.', ours: false })
})`
const [fine, endless, greedy, deadly, refused] = [0, 1, 2, 3, 4].map(n => Uint8Array.of(n)) as [
  Uint8Array, Uint8Array, Uint8Array, Uint8Array, Uint8Array,
]
const job = { what: 'decay', query: { mic: 1, part: 1 } } as AnalysisJob
function pool(limits: Partial<Parameters<typeof createPool>[1] & object> = {}) {
  let workers = 0
  const run = createPool(
    () => {
      workers++
      return new Worker(source, { eval: true })
    },
    { waiting: 2, each: 2, seconds: 60, bytes: 2 ** 40, ...limits },
  )
  return {
    run: (bytes: Uint8Array, left?: AbortSignal, who?: string) => run(job, bytes, left, who),
    workers: () => workers,
  }
}

describe('analyses in a worker', () => {
  it('one worker does one after the other, and a refusal is told as one', async () => {
    const { run, workers } = pool()
    const answers = await Promise.allSettled([run(fine), run(refused), run(fine)])
    expect(answers.map(a => a.status)).toEqual(['fulfilled', 'rejected', 'fulfilled'])
    expect((answers[1] as PromiseRejectedResult).reason).toBeInstanceOf(NotAnalysable)
    expect(workers()).toBe(1)
  })
  it('what takes too long is stopped with a sentence, and the next one is answered by a new worker', async () => {
    const { run, workers } = pool({ seconds: 0.2 })
    const [slow, after] = await Promise.allSettled([run(endless), run(fine)])
    expect((slow as PromiseRejectedResult).reason.message).toContain('longer than 0.2 s')
    expect(after.status).toBe('fulfilled')
    expect(workers()).toBe(2)
  })
  it('what takes too much memory is stopped, and the server lives on', async () => {
    const { run } = pool({ bytes: 2 ** 29 })
    const [large, after] = await Promise.allSettled([run(greedy), run(fine)])
    expect((large as PromiseRejectedResult).reason.message).toContain('more memory')
    expect(after.status).toBe('fulfilled')
  })
  it('a worker that dies fails its own analysis only', async () => {
    const { run, workers } = pool()
    const [dead, after] = await Promise.allSettled([run(deadly), run(fine)])
    expect((dead as PromiseRejectedResult).reason.message).toContain('died')
    expect(after.status).toBe('fulfilled')
    expect(workers()).toBe(2)
  })
  it('an asker who leaves frees the worker at once; one who waits leaves the queue', async () => {
    const { run, workers } = pool()
    const [first, second] = [new AbortController(), new AbortController()]
    const running = run(endless, first.signal)
    const waiting = run(fine, second.signal)
    const last = run(fine)
    second.abort()
    await expect(waiting).rejects.toThrow('left')
    first.abort()
    await expect(running).rejects.toThrow('left')
    expect((await last).body).toBe('done')
    expect(workers()).toBe(2)
  })
  it('one asker has its share of the queue, and the others come in between', async () => {
    const { run } = pool({ waiting: 8, each: 3 })
    const done: string[] = []
    const ask = (who: string) => run(fine, undefined, who).then(() => done.push(who))
    const first = ['a', 'a', 'a', 'a'].map(ask)
    const more = await run(fine, undefined, 'a').catch((e: unknown) => e)
    expect(more).toBeInstanceOf(Busy)
    expect((more as Busy).own).toBe(true)
    await Promise.all([...first, ask('b'), ask('c')])
    expect(done.slice(0, 3).sort()).toEqual(['a', 'b', 'c'])
  })
  it('a full queue says when to come again', async () => {
    const { run } = pool()
    const left = new AbortController()
    const held = [endless, fine, fine].map(bytes => run(bytes, left.signal))
    const error = await run(fine).catch((e: unknown) => e)
    expect(error).toBeInstanceOf(Busy)
    expect((error as Busy).seconds).toBeGreaterThan(0)
    left.abort()
    for (const one of await Promise.allSettled(held)) expect(one.status).toBe('rejected')
  })
})
