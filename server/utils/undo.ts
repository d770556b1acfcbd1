import { createError, type H3Event } from 'h3'
import * as v from 'valibot'
import { undo } from '../rig/undo'
import { notFound, param, readChecked, whoAsks } from './request'

/** `live`: settings go on to their devices. */
const Body = v.strictObject({ live: v.optional(v.boolean(), false) })

/**
 * Takes back or makes again, and says what: 404 without such a site, 409 with the reason when there is nothing
 * or it was overtaken.
 */
export async function answerUndo(event: H3Event, redo: boolean) {
  const site = param(event, 'site')
  const { live } = await readChecked(event, Body)
  const answer = await undo(site, redo, live, whoAsks(event))
  if (answer.status === 'missing') throw notFound(`site “${site}”`)
  if (answer.status === 'nothing')
    throw createError({
      statusCode: 409,
      message: `There is nothing left to ${redo ? 'redo' : 'undo'} at this site.`,
    })
  if (answer.status === 'refused') throw createError({ statusCode: 409, message: answer.why })
  return { what: answer.what, why: answer.why }
}
