import type { EditsAnswer, Overtaken } from '~~/core/contract'
import { against, type Change, type Edit, type Mirror, type Pending } from '~~/core/documents'
import { equal } from '~~/core/units'
import { AnswerRefusal } from './api'

/**
 * A wish to change something: where, and what it shall be (undefined: nothing). What it was is found when it is
 * sent.
 */
export type Wish = Pick<Edit, 'document' | 'path' | 'new'>

export interface EditOptions {
  /** Joins what is taken back together; null keeps it out of undo. */
  gesture?: string | null | undefined
  live?: boolean | undefined
  lease?: string | undefined
}

/** What the editor needs of the page around it. */
export interface Surroundings {
  mirror: () => Mirror | null
  show: (pending: readonly Pending[]) => void
  /** Sends edits; rejects with AnswerRefusal. */
  send: (body: { edits: Edit[] } & EditOptions) => Promise<EditsAnswer>
  /** Takes in what an answer brought, and resolves when everything up to the number is known. */
  known: (number: number, changes: readonly Change[]) => Promise<void>
  refused: (error: unknown, edits: readonly Wish[]) => void
  told: (answer: EditsAnswer) => void
}

interface Job {
  id: number
  wishes: readonly Wish[]
  options: EditOptions
  settle: ((kept: boolean) => void)[]
}

/** Settings of a device wait for that device alone, those of several for their own; everything else keeps one order. */
const laneOf = (wishes: readonly Wish[]) => {
  const documents = [...new Set(wishes.map(w => w.document))].sort()
  return documents.every(d => d.startsWith('settings/')) ? documents.join(' ') : 'plan'
}

/**
 * The edits of this page on their way: shown at once, sent one after the other in their lane, and shown until
 * the server's own changes
 * hold them. While one is on its way, a newer wish of the same place takes the place of the one that waits behind it.
 */
export function createEditor(around: Surroundings) {
  const lanes = new Map<string, Job[]>()
  const busy = new Set<string>()
  let pending: Pending[] = []
  let next = 1

  const show = () => around.show(pending)
  const forget = (id: number) => {
    pending = pending.filter(p => p.id !== id)
    show()
  }
  const pend = ({ id, wishes }: Job) => {
    const edits = wishes.map(w => ({ ...w }))
    const at = pending.findIndex(p => p.id === id)
    pending = at < 0 ? [...pending, { id, edits }] : pending.map(p => (p.id === id ? { id, edits } : p))
    show()
  }

  async function work(lane: string) {
    if (busy.has(lane)) return
    busy.add(lane)
    const jobs = lanes.get(lane)!
    for (let job = jobs.shift(); job; job = jobs.shift()) await send(job)
    busy.delete(lane)
  }

  async function send(job: Job) {
    let kept = false
    try {
      const edits = against(
        around.mirror()?.documents ?? {},
        job.wishes.map(w => ({ ...w })),
      )
      if (edits.length) {
        const answer = await around.send({ edits, ...job.options })
        await around.known(answer.number, answer.changes)
        around.told(answer)
      }
      kept = true
    }
    catch (error) {
      around.refused(error, job.wishes)
    }
    forget(job.id)
    for (const settle of job.settle) settle(kept)
  }

  const samePlaces = (a: readonly Wish[], b: readonly Wish[]) =>
    a.length === b.length && a.every((w, k) => w.document === b[k]!.document && w.path === b[k]!.path)

  return {
    /** Makes wishes together; resolves with true when they are kept. */
    make(wishes: readonly Wish[], options: EditOptions): Promise<boolean> {
      if (!wishes.length) return Promise.resolve(true)
      return new Promise((settle) => {
        const lane = laneOf(wishes)
        const jobs = lanes.get(lane) ?? []
        lanes.set(lane, jobs)
        const last = jobs.at(-1)
        if (last && samePlaces(last.wishes, wishes) && equal(last.options, options)) {
          last.wishes = wishes
          last.settle.push(settle)
          pend(last)
          return
        }
        const job: Job = { id: next++, wishes, options, settle: [settle] }
        jobs.push(job)
        pend(job)
        void work(lane)
      })
    },
    /** True while something of a place is on its way. */
    isPending: (document: string, path: string) =>
      pending.some(p => p.edits.some(e => e.document === document && e.path === path)),
    /** Resolves when nothing is on its way. */
    async idle() {
      while (pending.length) await new Promise(done => setTimeout(done, 10))
    },
  }
}

/** What a refusal says, with what stands there now in its favour. */
export function refusalWords(error: unknown): { kind: 'warn' | 'error', text: string } {
  if (error instanceof AnswerRefusal && error.status === 409 && (error.data as Overtaken | null)?.document) {
    return { kind: 'warn', text: `${error.message} The newer value is shown; set yours again if you still want it.` }
  }
  return { kind: 'error', text: (error as Error).message }
}
