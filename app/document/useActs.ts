import { testFeed } from '~~/core/rig'
import type { Reach, Setting } from '~~/core/tune'
import { useSite } from './site'
import { useNotices } from '~/parts/notices'
import { message, refusal } from '~~/core/words'
import { phrase } from '~/parts/phrase'

/** Sources as acts take them, and settings of several devices made as one step. */
export function useActs() {
  const site = useSite()
  const notices = useNotices()

  /** A source with what drives it and what drives all others. Throws RangeError where no cable brings a signal in. */
  function reachOf(id: string): Reach {
    const from = site.feedFrom(testFeed)
    if (!from) throw refusal('rig.noFeed')
    const others = site.sources.filter(s => s.id !== id).flatMap(s => site.outputs(s.id))
    return { rig: site.desiredRig, from, name: site.sourceOf(id)!.name, outputs: site.outputs(id), others }
  }
  /** Makes edits as one step and says so. */
  async function make(edits: readonly Setting[], words: string): Promise<boolean> {
    if (!(await site.editAll(edits))) return false
    const act = { name: phrase('common.undo'), run: () => void site.undo() }
    notices.say('info', message(site.live ? 'act.done' : 'act.draft', { words }), { act })
    return true
  }
  return { reachOf, make }
}
