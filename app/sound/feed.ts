import { feedOnly, feedToo, testFeed } from '~~/core/rig'
import { useDrafts } from '~/document/drafts'
import { useSite } from '~/document/site'
import { useView } from '~/document/view'
import { useNotices } from '~/parts/notices'
import { useListen } from './listen'
import { message } from '~~/core/words'
import { phrase } from '~/parts/phrase'

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
    if (!view.cell || !name) return notices.say('warn', message('feed.noCell'))
    if (!from) return notices.say('warn', message('rig.noFeed'))
    if (!site.outputs(view.cell.source).length)
      return notices.say('warn', message('feed.noOutput', { source: name }))
    const crossings = which(site.desiredRig, from, site.outputs(view.cell.source))
    const sounding = listen.noise
    if (site.live) listen.silence()
    if (crossings.length && !(await site.editAll(crossings))) return
    if (sounding && site.live) await listen.turnNoise(true)
    if (!site.live && site.unsentCount)
      notices.say('warn', message('feed.waits', { source: name }), {
        act: { name: phrase('sound.sendItNow'), run: () => void useDrafts().send() },
      })
  }
  return { only: () => cross(feedOnly), too: () => cross(feedToo) }
})
