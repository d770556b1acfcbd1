import type * as v from 'valibot'
import { analysisOperations } from './analysisOperations'
import type { Operation } from './operation'
import { serverOperations } from './serverOperations'
import { siteOperations } from './siteOperations'

export type { Bytes, Operation } from './operation'
export { HistoryQuery, NewSiteBody, SitesQuery } from './siteOperations'

/** Everything that can be asked of the server over HTTP: the one table of requests, answers and refusals. */
export const operations = { ...serverOperations, ...siteOperations, ...analysisOperations }

const patterns = (Object.values(operations) as Operation[]).map(operation => ({
  operation,
  pattern: new RegExp(`^${operation.path.replace(/[.]/g, '\\.').replace(/\{\w+\}/g, '[^/]+')}/?$`),
}))
/** What can be asked at an address, by method; empty where nothing can. */
export const operationsAt = (path: string): Record<string, Operation> =>
  Object.fromEntries(patterns.filter(p => p.pattern.test(path)).map(p => [p.operation.method, p.operation]))
/** The options of an operation by their names. */
export const queryEntries = ({ query }: Operation): Record<string, v.GenericSchema> =>
  (query as { entries?: Record<string, v.GenericSchema> } | undefined)?.entries ?? {}
