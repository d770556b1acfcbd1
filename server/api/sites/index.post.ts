import { NewSiteBody } from '../../../core/contract'
import type * as v from 'valibot'
import { lookAtDevices } from '../../links/links'
import type { Asker } from '../../store/edits'
import { copySite, createSite, importSite } from '../../store/sites'
import { templateIds, type TemplateId } from '../../store/templates'
import { asker } from '../../access/sessions'

const longestFile = 256 * 1024 * 1024

async function make(body: v.InferOutput<typeof NewSiteBody>, asker: Asker) {
  if (body.from === 'file') return importSite(body.file, asker)
  if (body.from === 'site') {
    const id = await copySite(body.site, body.name, asker)
    if (id === null) throw notFound('site.noSuch')
    return id
  }
  if (!templateIds.includes(body.template as TemplateId)) throw notFound('template.noSuch')
  return createSite(body.name, body.template as TemplateId, body.rig, asker)
}

/** A new site: from a template, as a copy of another, or from a site file. */
export default defineEventHandler(async (event) => {
  const body = checked(NewSiteBody, await readStreamed(event, longestFile))
  try {
    const id = await make(body, await asker(event))
    await lookAtDevices()
    setResponseStatus(event, 201)
    return { id }
  }
  catch (error) { throw asRefused(error) }
})
