import { feedOnly, parametersIn, sameEndpoint, testFeed, type Endpoint, type ParameterPath } from '~~/core/rig'
import type { LeaseAnswer } from '~~/core/contract'
import { ask } from '~/utils/api'

interface Setting {
  device: string
  path: ParameterPath
  value: unknown
}

/** Seconds between two signs of life. */
const renewEvery = 5

/**
 * Makes one source sound alone, as a temporary state that the server puts back: also when this page is closed
 * or its machine dies.
 */
export function createSolo(site: ReturnType<typeof useSite>) {
  let lease: string | null = null
  let timer: ReturnType<typeof setInterval> | undefined
  const path = (id: string) => site.path(`/leases/${id}`)

  async function begin(what: string) {
    const { id } = await ask<LeaseAnswer>(site.path('/leases'), { method: 'POST', body: { what } })
    lease = id
    timer = setInterval(() => void ask(path(id), { method: 'PUT' }).catch(() => {}), renewEvery * 1000)
    addEventListener('pagehide', leave)
  }
  /** The page goes: said at once, so that nobody need wait until the lease runs out. */
  function leave() {
    if (lease) void fetch(path(lease), { method: 'DELETE', keepalive: true })
  }
  async function end(): Promise<void> {
    const id = lease
    lease = null
    clearInterval(timer)
    removeEventListener('pagehide', leave)
    if (id) await ask(path(id), { method: 'DELETE' })
  }

  /** The mute that silences an output: the last one on its strip. */
  const muteOf = ({ device, channel }: Endpoint): Omit<Setting, 'value'> | null => {
    const capability = site.deviceOf(device)?.capability
    const strip = capability?.outputs[channel]?.strip
    const mute
      = capability && strip !== undefined
        ? parametersIn(capability, strip).find(p => p.kind.kind === 'mute')
        : undefined
    return mute ? { device, path: mute.path } : null
  }
  async function set(settings: readonly Setting[]) {
    if (!settings.length) return
    const edits = settings.map(({ device, path: p, value }) => ({
      document: `settings/${device}`,
      path: p,
      new: value,
    }))
    const kept = await site.change(
      edits.map(e => ({ ...e, new: e.new === false || e.new === null ? undefined : e.new })),
      { live: true, gesture: null, lease: lease! },
    )
    if (!kept) throw new Error('The loudspeakers could not be switched for the sweep.')
  }
  /** Lets only these outputs sound, fed with the test signal: silence first, then sound. */
  async function only(outputs: readonly Endpoint[]) {
    const all = site.sources
      .flatMap(s => site.outputs(s.id))
      .filter((o, k, list) => list.findIndex(x => sameEndpoint(x, o)) === k)
    const isWanted = (o: Endpoint) => outputs.some(w => sameEndpoint(w, o))
    const mutes = (wanted: boolean) =>
      all
        .filter(o => isWanted(o) === wanted)
        .flatMap((o) => {
          const mute = muteOf(o)
          return mute ? [{ ...mute, value: !wanted }] : []
        })
    const from = site.feedFrom(testFeed)
    await set(mutes(false))
    await set(mutes(true))
    if (from) await set(feedOnly(site.draftRig, from, outputs))
  }
  return { begin, end, only }
}
