import { feedOnly, feedToo, testFeed } from '~~/core/rig'
import { feedOfTap } from '~~/standins/venue/interface'

/** Who gets Kovrin's own signal: this source alone, or this one too. */
export const useFeed = defineStore('feed', () => {
  const site = useSite()
  const view = useView()
  const listen = useListen()
  const notices = useNotices()

  /**
   * Sets crosspoints in silence: the noise stops at once and rises again afterwards. In Draft they wait, and that is
   * said.
   */
  async function cross(which: typeof feedOnly) {
    const from = site.feedFrom(testFeed)
    const name = site.sourceOf(view.cell?.source)?.name
    if (!view.cell || !name) return notices.say('warn', 'Pick a cell first: which loudspeaker is to be fed?')
    if (!from) return notices.say('warn', 'No cable brings Kovrin’s signal into a device: see Rig.')
    const crossings = which(site.draftRig, from, site.outputs(view.cell.source))
    const sounding = listen.noise
    if (site.live) listen.hush()
    if (crossings.length && !(await site.editAll(crossings))) return
    if (sounding && site.live) await listen.turnNoise(true)
    if (!site.live && site.unsentCount)
      notices.say('warn', `This waits in the draft: ${name} is fed once it is sent.`, {
        act: { name: 'Send it now', run: () => void site.send() },
      })
  }
  /** Other sources than the picked one that get the signal in the devices: their sound would spoil its measurement. */
  const others = computed(() => {
    const picked = view.cell?.source
    return picked === undefined ? [] : site.sources.filter(x => x.id !== picked && site.fed(x.id))
  })
  /** True where what sounds is other sources alone: nothing that is heard tells of the picked one. */
  const onlyOthers = computed(() => others.value.length > 0 && !site.fed(view.cell!.source))
  /** The same, where the measurement in front follows Kovrin’s own signal: its numbers are those of the others. */
  const othersHeard = computed(() =>
    onlyOthers.value && listen.front !== null && feedOfTap(listen.front.reference) === testFeed)
  return { others, onlyOthers, othersHeard, only: () => cross(feedOnly), too: () => cross(feedToo) }
})
