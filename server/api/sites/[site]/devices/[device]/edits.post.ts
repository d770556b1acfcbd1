import * as v from 'valibot'
import { Band, Pass } from '../../../../../../core/rig'
import { applyEdit } from '../../../../../rig/edits'
import { inOrder } from '../../../../../rig/inOrder'

const Value = v.union([v.number(), v.boolean(), v.null(), Pass, Band])
const Body = v.strictObject({
  path: v.string(),
  old: Value,
  new: v.unknown(),
  live: v.boolean(),
  gesture: v.optional(v.nullable(v.pipe(v.string(), v.maxLength(60)))),
})

export default defineEventHandler(async (event) => {
  const site = param(event, 'site')
  const device = param(event, 'device')
  const edit = await readChecked(event, Body)
  const answer = await inOrder(`${site}/${device}`, () => applyEdit(site, device, edit, whoAsks(event)))
  if (answer.status === 'missing') throw notFound(`device “${device}” in site “${site}”`)
  if (answer.status === 'refused') throw createError({ statusCode: 422, message: answer.why })
  if (answer.status === 'overtaken')
    throw createError({ statusCode: 409, message: answer.why, data: { value: answer.value } })
  return { value: answer.value, sent: answer.sent, why: answer.why }
})
