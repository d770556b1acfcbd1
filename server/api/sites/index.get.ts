import { SitesQuery } from '../../../core/contract'
import { listSites } from '../../store/sites'

export default defineEventHandler(event =>
  listSites(checked(SitesQuery, getQuery(event), 'the query').deleted === 'true'))
