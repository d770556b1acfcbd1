import type { Take } from '~~/core/documents'
import { shiftDelays, ownDelays, testFeed } from '~~/core/rig'
import { showDelay } from '~~/core/units'
import type { MenuAction } from '~/parts/menus'
import { useSite } from '~/document/site'
import { useTakes } from '~/document/takes'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { useListen } from '~/sound/listen'
import { useSets } from '~/sound/sets'
import { message } from '~~/core/words'
import { phrase } from '~/parts/phrase'

/** A delay under this is no delay: half a sample of the slowest device in use. */
const nothing = 1e-5

/** What lets the running measurement's source arrive with another, whose newest take is of the same place and clock. */
export function useTogether() {
  const site = useSite()
  const view = useView()
  const listen = useListen()
  const sets = useSets()
  const takes = useTakes()
  const notices = useNotices()

  const comparable = (t: Take) =>
    t.info.arrival !== null && t.timing.sameClock && t.timing.reference === listen.front?.reference
    && !t.only && !takes.stale[t.id]?.length
  /** The newest take of every other source at this place that tells its arrival. */
  const others = computed(() => {
    const position = listen.front && sets.placeOf(listen.front)
    if (!position || !view.cell || sets.clocks(listen.front!)) return []
    return site.sources.filter(s => s.id !== view.cell!.source).flatMap((source) => {
      const take = takes.all.findLast(t => t.source === source.id && t.position === position.id && comparable(t))
      return take ? [{ source, arrival: take.info.arrival! }] : []
    })
  })

  /** Delays one source alone by `by` seconds; says why where it cannot. */
  async function delay(id: string, by: number) {
    const from = site.feedFrom(testFeed)
    const name = site.sourceOf(id)!.name
    const outside = site.sources.filter(s => s.id !== id).flatMap(s => site.outputs(s.id))
    const own = from && ownDelays(site.desiredRig, from, site.outputs(id), outside)
    if (!own?.length) return notices.say('error', message('act.noOwnDelay', { name }))
    try {
      // from what sounded: pressed twice in Draft it is still this much, not twice
      if (!(await site.editAll(shiftDelays(site.confirmedRig, own, by)))) return
    }
    catch (error) {
      return notices.fail(error)
    }
    const act = { name: phrase('common.undo'), run: () => void site.undo() }
    const told = { source: name, by: showDelay(by) }
    notices.say('info', message(site.live ? 'together.delayed' : 'together.draft', told), { act })
  }

  const actions = computed<MenuAction[]>(() => others.value.map(({ source, arrival }) => {
    // what was heard before a change, or of other sources, tells nothing of this one
    const isOther = listen.settling || listen.assumed || !site.fed(view.cell!.source)
    const heard = isOther ? null : listen.arrival
    if (!heard) return { name: phrase('listen.noArrivalOfThis', {
      name: source.name,
    }), run: () => {}, disabled: true }
    const later = arrival - heard.time
    const here = site.sourceOf(view.cell!.source)!
    if (Math.abs(later) < nothing) return { name: phrase('listen.arrivesWithIt', {
      name: source.name,
    }), run: () => {}, disabled: true }
    const [id, name] = later > 0 ? [here.id, here.name] : [source.id, source.name]
    return {
      name: phrase('listen.delayBy', { name: source.name, other: name, delay: showDelay(Math.abs(later)) }),
      run: () => void delay(id, Math.abs(later)),
    }
  }))
  return { actions }
}
