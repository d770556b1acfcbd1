import { testFeed } from '~~/core/rig'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useSets } from './sets'

/** Which sources get Kovrin's own signal in the devices, against the picked one. */
export function useFed() {
  const site = useSite()
  const view = useView()
  const sets = useSets()

  /** Others than the picked one: their sound would spoil its measurement. */
  const others = computed(() => {
    const picked = view.cell?.source
    return picked === undefined ? [] : site.sources.filter(x => x.id !== picked && site.fed(x.id))
  })
  /** True where what sounds is other sources alone: nothing that is heard tells of the picked one. */
  const onlyOthers = computed(() => others.value.length > 0 && !site.fed(view.cell!.source))
  /** The picked source where the measurement in front hears others alone; a feed from elsewhere says nothing of it. */
  const silent = computed(() => {
    const isOwn = sets.front && sets.feedOf(sets.front) === testFeed
    return onlyOthers.value && isOwn ? site.sourceOf(view.cell!.source) : null
  })
  /** The picked source where the site has devices and none of them drives it: no crosspoint can feed it. */
  const undriven = computed(() => {
    const source = site.sourceOf(view.cell?.source)
    return source && site.devices.length && !site.outputs(source.id).length ? source : null
  })
  return { others, onlyOthers, silent, undriven }
}
