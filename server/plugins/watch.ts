import { operations, operationsAt, type Operation } from '../../core/contract'
import { log } from '../watch/log'
import { requests } from '../watch/metrics'

const nameOf = new Map<Operation, string>(Object.entries(operations).map(([name, operation]) => [operation, name]))

/** What a request asks for, by its name in the contract. */
function askedFor(method: string, path: string): string {
  if (!path.startsWith('/api')) return 'page'
  const operation = operationsAt(path)[method === 'HEAD' ? 'get' : method.toLowerCase()]
  return (operation && nameOf.get(operation)) ?? 'unknown'
}

/** Every request is counted; those that change something or are refused stand in the log too. */
export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('request', (event) => {
    const began = performance.now()
    const { method } = event
    const path = event.path.replace(/\?.*$/s, '')
    event.node.res.once('close', () => {
      const seconds = (performance.now() - began) / 1000
      const { statusCode, writableFinished } = event.node.res
      const asked = askedFor(method, path)
      requests.observe({ asked, status: String(statusCode) }, seconds)
      if (asked === 'page' || (method === 'GET' && statusCode < 400)) return
      const ms = Math.round(seconds * 1000)
      log.info({ asked, method, path: path.slice(0, 200), status: statusCode, ms, left: !writableFinished }, 'request')
    })
  })
})
