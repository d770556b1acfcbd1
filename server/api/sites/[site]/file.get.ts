import { exportSite } from '../../../store/sites'

export default defineEventHandler(async (event) => {
  const id = param(event, 'site')
  const file = await exportSite(id)
  if (!file) throw notFound(`site “${id}”`)
  setResponseHeader(event, 'content-disposition', `attachment; filename="${id}.kovrin.json"`)
  return file
})
