import { BackupQuery } from '../../../core/contract'
import { sharer } from '../../access/shares'
import { archiveToSend } from '../../jobs/backups'
import { siteExists } from '../../store/sites'
import { message } from '../../../core/words'

/** The archive of a site or of everything, as it stands now. */
export default defineEventHandler(async (event) => {
  const { site } = checked(BackupQuery, getQuery(event), 'the query')
  if (site !== undefined && !(await siteExists(site))) throw notFound('site.noSuch')
  const name = `kovrin-${site ?? 'everything'}-${new Date().toISOString().slice(0, 10)}.jsonl.gz`
  const archive = await archiveToSend(site ?? null, await sharer(event.node.req)).catch((error: unknown) => {
    throw asRefused(error)
  })
  if (!archive) {
    setResponseHeader(event, 'retry-after', 10)
    throw refused(429, message('backup.tooMany'))
  }
  setResponseHeaders(event, {
    'content-type': 'application/gzip',
    'content-length': archive.bytes,
    'content-disposition': `attachment; filename="${name}"`,
  })
  const { res } = event.node
  if (res.closed) archive.file.destroy()
  res.once('close', () => archive.file.destroy())
  return sendStream(event, archive.file)
})
