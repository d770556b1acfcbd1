import * as v from 'valibot'
import { SiteName } from '../../../../core/rig'
import { changeSite } from '../../../rig/siteFile'

const Body = v.strictObject({
  name: v.optional(SiteName),
  archived: v.optional(v.boolean()),
  deleted: v.optional(v.boolean()),
})

export default defineEventHandler(async (event) => {
  const change = await readChecked(event, Body)
  if (!Object.keys(change).length)
    throw createError({ statusCode: 400, message: 'Say what to change: name, archived or deleted.' })
  if (!(await changeSite(param(event, 'site'), change))) throw notFound(`site “${param(event, 'site')}”`)
  return { kept: true }
})
