import type { LeaseAnswer } from '~~/core/contract'
import type { ParameterPath } from '~~/core/rig'
import { ask } from './api'
import type { useSite } from './site'

/** Seconds between two signs of life. */
const renewEvery = 5

/**
 * A temporary state of devices that the server restores: also when this page is closed or its machine dies. `ended` is
 * called when it ended before the page wished it.
 */
export function createLease(site: ReturnType<typeof useSite>, ended: () => void = () => {}) {
  let lease: string | null = null
  let pulse: Worker | null = null
  const path = (id: string) => site.path(`/leases/${id}`)

  /** The page goes: said at once, so that nobody need wait until the lease runs out. */
  function leave() {
    if (lease) void fetch(path(lease), { method: 'DELETE', keepalive: true })
  }
  return {
    async begin(what: string) {
      const { id } = await ask<LeaseAnswer>(site.path('/leases'), { method: 'POST', body: { what } })
      lease = id
      pulse = new Worker(new URL('../workers/pulse.worker.ts', import.meta.url), { type: 'module' })
      pulse.onmessage = () => {
        pulse?.terminate()
        ended()
      }
      pulse.postMessage({ url: path(id), every: renewEvery * 1000 })
      addEventListener('pagehide', leave)
    },
    async end(): Promise<void> {
      const id = lease
      lease = null
      pulse?.terminate()
      removeEventListener('pagehide', leave)
      if (id) await ask(path(id), { method: 'DELETE' })
    },
    /** Sets what is put back when it ends; false when it was refused. */
    set: async (settings: readonly { device: string, path: ParameterPath, value: unknown }[]): Promise<boolean> =>
      !settings.length || await site.change(
        settings.map(s => ({ document: `settings/${s.device}`, path: s.path, new: s.value })),
        { live: true, gesture: null, lease: lease! },
      ),
  }
}
