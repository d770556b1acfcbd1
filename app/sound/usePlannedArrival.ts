import { distance, speedOfSound } from '~~/core/acoustics'
import { routeDelay, routeTo, testFeed } from '~~/core/rig'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useSets } from './sets'

/** When the plan lets a source's sound arrive. */
export function usePlannedArrival() {
  const site = useSite()
  const view = useView()
  const sets = useSets()

  /**
   * Arrival of a source by the plan: electronics and flight from the nearest cabinet; null when it is not there, or
   * where nobody knows by which way the signal comes.
   */
  function arrivalByPlan(sourceId: string, positionId = view.cell?.position, feed = feedNow()): number | null {
    const source = site.sourceOf(sourceId)
    const position = site.positionOf(positionId)
    if (!source || !position || feed === null) return null
    const metres = Math.min(...source.elements.map(e => distance(e.place, position.place)))
    return electronicsOf(sourceId, feed) + metres / speedOfSound(site.plan.air)
  }
  /** The feed that the front measurement's reference hears. */
  const feedNow = () => (sets.front ? sets.feedOf(sets.front) : testFeed)
  /** Delay in the electronics from a feed to the first of a source's outputs that it reaches. */
  function electronicsOf(sourceId: string, feed: string | null): number {
    const from = feed === null ? undefined : site.feedFrom(feed)
    const delays = site.outputs(sourceId).flatMap((to) => {
      const route = from && routeTo(site.heldRig, from, to)
      return route ? [routeDelay(site.heldRig, route)] : []
    })
    return delays.length ? Math.min(...delays) : 0
  }
  return {
    arrivalByPlan,
    /** Of the source in view. */
    electronics: () => (view.cell ? electronicsOf(view.cell.source, feedNow()) : 0),
  }
}
