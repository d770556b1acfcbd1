import type { EditsAnswer, Overtaken } from '~~/core/contract'
import {
  against,
  deliveryAfter,
  emptyOutbox,
  pendingIn,
  queuedIn,
  readyToSend,
  type Change,
  type Delivery,
  type DeliveryEvent,
  type DeliveryOptions,
  type DesiredEdit,
  type Edit,
  type Mirror,
  type Pending,
} from '~~/core/documents'
import { message, toldOf, type Message } from '~~/core/words'
import { AnswerRefusal } from './api'

/** What the editor needs of the page around it. */
export interface EditorHost {
  mirror: () => Mirror | null
  show: (pending: readonly Pending[]) => void
  /** Sends edits; rejects with AnswerRefusal. */
  send: (body: { edits: Edit[] } & DeliveryOptions) => Promise<EditsAnswer>
  /** Takes in what an answer brought, and resolves when everything up to the number is known. */
  known: (number: number, changes: readonly Change[]) => Promise<void>
  refused: (error: unknown, edits: readonly DesiredEdit[]) => void
  told: (answer: EditsAnswer) => void
}

/**
 * The edits of this page on their way: shown at once, sent one after the other in their lane, and shown until the
 * server's own changes hold them.
 */
export function createEditor(host: EditorHost) {
  let outbox = emptyOutbox
  /** Who waits for a delivery to be answered, by its number. */
  const waiting = new Map<number, ((kept: boolean) => void)[]>()
  const dispatch = (event: DeliveryEvent) => {
    outbox = deliveryAfter(outbox, event)
    host.show(pendingIn(outbox))
  }
  function sendReady() {
    for (const delivery of readyToSend(outbox)) {
      dispatch({ type: 'send', id: delivery.id })
      void send(delivery)
    }
  }

  async function send({ id, edits: desired, options }: Delivery) {
    let kept = false
    try {
      const edits = against(host.mirror()?.documents ?? {}, desired.map(e => ({ ...e })))
      if (edits.length) {
        const answer = await host.send({ edits, ...options })
        await host.known(answer.number, answer.changes)
        host.told(answer)
      }
      kept = true
    }
    catch (error) {
      host.refused(error, desired)
    }
    dispatch({ type: kept ? 'confirmed' : 'refused', id })
    for (const settle of waiting.get(id) ?? []) settle(kept)
    waiting.delete(id)
    sendReady()
  }

  return {
    /** Makes edits together; resolves with true when they are kept. */
    make(edits: readonly DesiredEdit[], options: DeliveryOptions): Promise<boolean> {
      if (!edits.length) return Promise.resolve(true)
      return new Promise((settle) => {
        dispatch({ type: 'queue', edits, options })
        const { id } = queuedIn(outbox, edits)
        waiting.set(id, [...(waiting.get(id) ?? []), settle])
        sendReady()
      })
    },
    /** True while something of a place is on its way. */
    isPending: (document: string, path: string) =>
      outbox.deliveries.some(d => d.edits.some(e => e.document === document && e.path === path)),
    /** Resolves when nothing is on its way. */
    async idle() {
      while (outbox.deliveries.length) await new Promise(done => setTimeout(done, 10))
    },
  }
}

/** What a refusal says, with what stands there now in its favour. */
export function refusalTold(error: unknown): { kind: 'warn' | 'error', told: Message } {
  if (error instanceof AnswerRefusal && error.status === 409 && (error.data as Overtaken | null)?.document) {
    return { kind: 'warn', told: message('edit.newerShown', { why: error.told }) }
  }
  return { kind: 'error', told: toldOf(error) }
}
