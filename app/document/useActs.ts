import { louderBy, parametersIn, testFeed, valueOf } from '~~/core/rig'
import type { Reach, Setting } from '~~/core/tune'

/** Sources as acts take them, and settings of several devices made as one step, asking where it gets loud. */
export function useActs() {
  const site = useSite()
  const notices = useNotices()
  const agreement = useAgreement()

  /** A source with what drives it and what drives all others. Throws RangeError where no cable brings a signal in. */
  function reachOf(id: string): Reach {
    const from = site.feedFrom(testFeed)
    if (!from) throw new RangeError('No cable brings Kovrin’s signal into a device: see Rig.')
    const others = site.sources.filter(s => s.id !== id).flatMap(s => site.outputs(s.id))
    return { rig: site.draftRig, from, name: site.sourceOf(id)!.name, outputs: site.outputs(id), others }
  }
  function louderOf(edits: readonly Setting[]): number {
    const steps = edits.map((e) => {
      const device = site.draftRig.devices[e.device]!
      const strip = device.capability.strips.find(s => e.path.startsWith(`/${s.id}/`))!
      const p = parametersIn(device.capability, strip.id).find(x => x.path === e.path)!
      return louderBy(p, valueOf(device.settings, p), e.value)
    })
    return Math.max(-Infinity, ...steps)
  }
  /** Makes edits as one step and says so; asks first where something gets louder at once. */
  async function make(edits: readonly Setting[], words: string): Promise<boolean> {
    if (site.live && !(await agreement.louder(louderOf(edits), words.replace(/\.$/, '')))) return false
    if (!(await site.editAll(edits))) return false
    const act = { name: 'Undo', run: () => void site.undo() }
    notices.say('info', `${words}${site.live ? '' : ' It waits in the draft until it is sent.'}`, { act })
    return true
  }
  return { reachOf, make }
}
