import { flightTime } from '~~/core/acoustics'
import { testFeed } from '~~/core/rig'
import { electronics } from '~~/core/tune'
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
    const flight = flightTime(source.elements.map(e => e.place), position.place, site.plan.air)
    return electronicsOf(sourceId, feed) + flight
  }
  /** The feed that the front measurement's reference hears. */
  const feedNow = () => (sets.front ? sets.feedOf(sets.front) : testFeed)
  /** Delay in the electronics from a feed to the first of a source's outputs that it reaches. */
  function electronicsOf(sourceId: string, feed: string | null): number {
    const from = feed === null ? undefined : site.feedFrom(feed)
    return from ? electronics(site.confirmedRig, from, site.outputs(sourceId)) ?? 0 : 0
  }
  return {
    arrivalByPlan,
    /** Of the source in view. */
    electronics: () => (view.cell ? electronicsOf(view.cell.source, feedNow()) : 0),
  }
}
