import { atThisMachine } from '../access/here'
import { registry } from '../watch/metrics'

/** Figures for Prometheus; only for this machine. */
export default defineEventHandler(async (event) => {
  atThisMachine(event, 'Figures are told')
  setResponseHeader(event, 'content-type', registry.contentType)
  return registry.metrics()
})
