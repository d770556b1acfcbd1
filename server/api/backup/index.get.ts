import { BackupQuery } from '../../../core/contract'
import { archiveOf } from '../../store/backup'
import { siteExists } from '../../store/sites'

/** The archive of a site or of everything, as it stands now. */
export default defineEventHandler(async (event) => {
  const { site } = checked(BackupQuery, getQuery(event), 'the query')
  if (site !== undefined && !(await siteExists(site))) throw notFound('such site')
  const name = `kovrin-${site ?? 'everything'}-${new Date().toISOString().slice(0, 10)}.jsonl.gz`
  setResponseHeaders(event, {
    'content-type': 'application/gzip',
    'content-disposition': `attachment; filename="${name}"`,
  })
  const archive = archiveOf(site ?? null)
  event.node.res.once('close', () => archive.destroy())
  return sendStream(event, archive)
})
