import { registry } from '../watch/metrics'

const isLoopback = (address: string | undefined) =>
  address === '::1' || /^(?:::ffff:)?127\./.test(address ?? '')

/** Figures for Prometheus; only for this machine. */
export default defineEventHandler(async (event) => {
  if (!isLoopback(event.node.req.socket.remoteAddress))
    throw createError({ statusCode: 403, message: 'Figures are told on this machine only.' })
  setResponseHeader(event, 'content-type', registry.contentType)
  return registry.metrics()
})
