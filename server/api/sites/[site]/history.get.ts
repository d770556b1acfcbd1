import { HistoryQuery } from '../../../../core/contract'
import { settingsHistory } from '../../../store/history'
import { readLog } from '../../../store/log'
import { openSite } from '../../../store/sites'

export default defineEventHandler(async (event) => {
  const id = param(event, 'site')
  const { limit } = checked(HistoryQuery, getQuery(event), 'the query')
  if (!await openSite(id)) throw notFound('site.noSuch')
  const [changes, log] = await Promise.all([settingsHistory(id, limit), readLog(id, limit)])
  return { changes, log }
})
