import { collectDefaultMetrics, Counter, Gauge, Histogram, Registry } from 'prom-client'

/** Everything that /metrics tells, in the text format of Prometheus; memory and event-loop delay are the library's. */
export const registry = new Registry()
collectDefaultMetrics({ register: registry })

const inSeconds = [0.001, 0.005, 0.02, 0.1, 0.5, 2, 10]

export const requests = new Histogram({
  name: 'kovrin_request_seconds',
  help: 'Requests by what was asked and the status of the answer',
  labelNames: ['asked', 'status'],
  buckets: inSeconds,
  registers: [registry],
})
export const edits = new Counter({
  name: 'kovrin_changes_total',
  help: 'Changes of documents that were stored',
  labelNames: ['origin'],
  registers: [registry],
})
export const roundTrips = new Histogram({
  name: 'kovrin_device_seconds',
  help: 'From a message to a device until its answer',
  buckets: inSeconds,
  registers: [registry],
})
/** A figure that is read when it is asked for. */
export const gauge = (name: string, help: string, read: () => number) =>
  new Gauge({ name, help, registers: [registry], collect() { this.set(read()) } })
