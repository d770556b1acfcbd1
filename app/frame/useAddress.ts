import { equal } from '~~/core/units'
import { areas } from '~/areas/registry'
import { useSite } from '~/document/site'
import { useView, type AreaId } from '~/document/view'
import { lookAt, lookingOf, readAddress, writeAddress } from './address'

const known = Object.fromEntries(Object.values(areas).map(({ id, plates, charts }) =>
  [id, [...Object.keys(plates ?? {}), ...(charts ? ['ledger'] : [])]])) as Record<AreaId, string[]>

/**
 * Keeps what is looked at and the address the same: a reload, a link and a second screen show it again, and the
 * browser's Back goes back to the area or plate before.
 */
export function useAddress() {
  const site = useSite()
  const view = useView()
  const route = useRoute()
  const router = useRouter()
  const own = String(route.params.site)
  const placeNow = () => [route.params.place ?? []].flat()
  const here = () => readAddress(placeNow(), route.query, known)
  /** The address that what is looked at would have; null until the site is open. */
  const wanted = () => (site.open ? writeAddress(lookingOf(view)) : null)

  // what the address says comes first; a bare one says nothing
  watch(() => site.open?.id, () => {
    if (site.open && placeNow().length) lookAt(view, here())
  }, { immediate: true, flush: 'sync' })
  watch(wanted, (next, before) => {
    if (!next || (placeNow().length && equal(here(), readAddress(next.place, next.query, known)))) return
    // another area or plate is a step that one may want to take back; what is picked in it is none
    const isStep = before && placeNow().length > 0 && !equal(before.place, next.place)
    void router[isStep ? 'push' : 'replace']({ path: `/sites/${own}/${next.place.join('/')}`, query: next.query })
  }, { immediate: true, flush: 'post' })
  watch(() => route.fullPath, () => {
    const next = wanted()
    if (!next || String(route.params.site) !== own || !placeNow().length) return
    if (!equal(here(), readAddress(next.place, next.query, known))) lookAt(view, here())
  })
}
