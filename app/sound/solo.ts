import { refusal } from '~~/core/words'
import { feedOnly, is, parametersIn, sameEndpoint, testFeed, type Endpoint, type ParameterPath } from '~~/core/rig'
import { createLease } from '~/document/useLease'
import type { useSite } from '~/document/site'

interface Setting {
  device: string
  path: ParameterPath
  value: unknown
}

/**
 * Makes one source sound alone, as a temporary state that the server puts back: also when this page is closed
 * or its machine dies.
 */
export function createSolo(site: ReturnType<typeof useSite>, ended: () => void) {
  const { begin, end, set: setOnLease } = createLease(site, ended)

  /** The mute that silences an output: the last one on its strip. */
  const muteOf = ({ device, channel }: Endpoint): Omit<Setting, 'value'> | null => {
    const capability = site.deviceOf(device)?.capability
    const strip = capability?.outputs[channel]?.strip
    const mute
      = capability && strip !== undefined
        ? parametersIn(capability, strip).find(p => is(p, 'mute'))
        : undefined
    return mute ? { device, path: mute.path } : null
  }
  async function set(settings: readonly Setting[]) {
    const asStored = (value: unknown) => (value === false || value === null ? undefined : value)
    if (!(await setOnLease(settings.map(s => ({ ...s, value: asStored(s.value) })))))
      throw refusal('sweep.notSwitched')
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
    if (from) await set(feedOnly(site.desiredRig, from, outputs))
  }
  return { begin, end, only }
}
