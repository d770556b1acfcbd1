import { createError, type H3Event } from 'h3'
import type { Documents } from '../../core/documents'
import { contentOf } from '../../core/documents'
import { actorOf, type Outcome } from '../store/actor'
import { openSite } from '../store/sites'
import { notFound, param } from './request'

export const conflict = (message: string, data?: unknown) => createError({ statusCode: 409, message, data })

/**
 * The changes of an outcome, or its refusal as HTTP: 404, 409 with the newer value or with what gets louder, 422 with
 * what is allowed.
 */
export function answered<T extends { ok: true }>(outcome: T | Extract<Outcome, { ok: false }>): T {
  if (outcome.ok) return outcome
  if (outcome.status === 'missing') throw createError({ statusCode: 404, message: outcome.why })
  if (outcome.status === 'overtaken') throw conflict(outcome.why, outcome.now)
  if (outcome.status === 'louder') throw conflict(outcome.why, { louder: outcome.rises })
  throw createError({ statusCode: 422, message: outcome.why })
}

/** A fault that the asker can mend (a RangeError's sentence) as 422; anything else as it is. */
export const refusal = (error: unknown) =>
  error instanceof RangeError ? createError({ statusCode: 422, message: error.message }) : error

export const actorNumber = (site: string): number => actorOf(site).number

/** The device that is asked for, in its site; 404 when there is none. */
export async function deviceAsked(
  event: H3Event,
): Promise<{ site: string, device: string, number: number, documents: Documents }> {
  const site = param(event, 'site')
  const device = param(event, 'device')
  const open = await openSite(site)
  if (!open || !contentOf(open.documents, 'device', device)) throw notFound('such device in this site')
  return { site, device, number: open.number, documents: open.documents }
}
