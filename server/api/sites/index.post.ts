import * as v from 'valibot'
import { SiteName } from '../../../core/rig'
import { templateIds } from '../../rig/templates'
import { createSite, exportSite, importSite, SiteFile } from '../../rig/siteFile'

const Body = v.variant('from', [
  v.strictObject({ from: v.literal('template'), template: v.picklist(templateIds), name: SiteName }),
  v.strictObject({ from: v.literal('site'), site: v.string(), name: SiteName }),
  v.strictObject({ from: v.literal('file'), file: SiteFile }),
])

const longestFile = 256 * 1024 * 1024

/** A new site: from a template, as a copy of another, or from a site file. */
export default defineEventHandler(async (event) => {
  const body = await readChecked(event, Body, longestFile)
  const who = whoAsks(event)
  let id: string
  try {
    if (body.from === 'template') id = await createSite(body.name, body.template, who)
    else if (body.from === 'file') id = await importSite(body.file, who)
    else {
      const file = await exportSite(body.site)
      if (!file) throw notFound(`site “${body.site}”`)
      id = await importSite({ ...file, name: body.name }, who)
    }
  }
  catch (error) {
    if (error instanceof RangeError) throw createError({ statusCode: 422, message: error.message })
    throw error
  }
  setResponseStatus(event, 201)
  return { id }
})
