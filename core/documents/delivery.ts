import { equal } from '../units'
import type { Edit } from './change'
import type { Pending } from './mirror'

/**
 * A change that somebody wants: where, and what it shall be (undefined: nothing). What it was is found when it is
 * sent.
 */
export type DesiredEdit = Pick<Edit, 'document' | 'path' | 'new'>

export interface DeliveryOptions {
  /** Joins what is taken back together; null keeps it out of undo. */
  gesture?: string | null | undefined
  live?: boolean | undefined
  lease?: string | undefined
}

/**
 * Edits on their way to the server: `queued` until those before them in their lane are answered, then `sent`; once they
 * are confirmed or refused they are no longer on their way.
 */
export interface Delivery {
  id: number
  status: 'queued' | 'sent'
  lane: string
  edits: readonly DesiredEdit[]
  options: DeliveryOptions
}
/** All edits of a page that are on their way, the oldest first; `next` is the number of the next. */
export interface Outbox {
  next: number
  deliveries: readonly Delivery[]
}
export const emptyOutbox: Outbox = { next: 1, deliveries: [] }

export type DeliveryEvent
  = | { type: 'queue', edits: readonly DesiredEdit[], options: DeliveryOptions }
    | { type: 'send', id: number }
    | { type: 'confirmed' | 'refused', id: number }

/** Settings of a device wait for that device alone, those of several for their own; everything else keeps one order. */
export function laneOf(edits: readonly DesiredEdit[]): string {
  const documents = [...new Set(edits.map(e => e.document))].sort()
  return documents.every(d => d.startsWith('settings/')) ? documents.join(' ') : 'plan'
}

const samePlaces = (a: readonly DesiredEdit[], b: readonly DesiredEdit[]) =>
  a.length === b.length && a.every((e, k) => e.document === b[k]!.document && e.path === b[k]!.path)

function queue({ next, deliveries }: Outbox, edits: readonly DesiredEdit[], options: DeliveryOptions): Outbox {
  const lane = laneOf(edits)
  const last = deliveries.findLast(d => d.lane === lane && d.status === 'queued')
  if (last && samePlaces(last.edits, edits) && equal(last.options, options))
    return { next, deliveries: deliveries.map(d => (d === last ? { ...d, edits } : d)) }
  return { next: next + 1, deliveries: [...deliveries, { id: next, status: 'queued', lane, edits, options }] }
}

/**
 * The outbox after an event. Queued edits that are followed by newer ones of the same places give way to them before
 * they are sent.
 */
export function deliveryAfter(outbox: Outbox, event: DeliveryEvent): Outbox {
  const { deliveries } = outbox
  switch (event.type) {
    case 'queue': return queue(outbox, event.edits, event.options)
    case 'send': {
      const sent = deliveries.map(d => (d.id === event.id ? { ...d, status: 'sent' as const } : d))
      return { ...outbox, deliveries: sent }
    }
    case 'confirmed':
    case 'refused': return { ...outbox, deliveries: deliveries.filter(d => d.id !== event.id) }
  }
}

/** What may be sent now: the oldest of each lane in which nothing is under way. */
export const readyToSend = ({ deliveries }: Outbox): Delivery[] =>
  deliveries.filter(d => d.status === 'queued' && deliveries.find(o => o.lane === d.lane) === d)

/** The delivery that edits have just been queued in: a new one, or the one that they joined. */
export const queuedIn = ({ deliveries }: Outbox, edits: readonly DesiredEdit[]): Delivery =>
  deliveries.findLast(d => d.lane === laneOf(edits))!

/** What is shown although it is not confirmed yet. */
export const pendingIn = ({ deliveries }: Outbox): Pending[] =>
  deliveries.map(({ id, edits }) => ({ id, edits: edits.map(e => ({ ...e })) }))
