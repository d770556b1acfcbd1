import type { H3Event } from 'h3'
import type { Documents } from '../../core/documents'
import { contentOf } from '../../core/documents'
import { actorOf, type Outcome } from '../store/actor'
import { openSite } from '../store/sites'
import { refused } from './refused'
import { notFound, param } from './request'

/**
 * The changes of an outcome, or its refusal as HTTP: 404, 409 with the newer value or with what gets louder, 422 with
 * what is allowed.
 */
export function answered<T extends { ok: true }>(outcome: T | Extract<Outcome, { ok: false }>): T {
  if (outcome.ok) return outcome
  if (outcome.status === 'missing') throw refused(404, outcome.why)
  if (outcome.status === 'overtaken') throw refused(409, outcome.why, outcome.now)
  if (outcome.status === 'louder') throw refused(409, outcome.why, { louder: outcome.rises })
  throw refused(422, outcome.why)
}

export const actorNumber = (site: string): number => actorOf(site).number

/** The device that is asked for, in its site; 404 when there is none. */
export async function deviceAsked(
  event: H3Event,
): Promise<{ site: string, device: string, number: number, documents: Documents }> {
  const site = param(event, 'site')
  const device = param(event, 'device')
  const open = await openSite(site)
  if (!open || !contentOf(open.documents, 'device', device)) throw notFound('device.noSuch')
  return { site, device, number: open.number, documents: open.documents }
}
