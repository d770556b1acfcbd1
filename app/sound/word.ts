import { useIntervalFn } from '@vueuse/core'
import { watch, type Ref } from 'vue'

/** Milliseconds between two questions whether this page may sound on. */
const askEvery = 300
/** A word holds so long: a line that says nothing for longer could not bring a Hush. */
const holds = 2000
/** What came while this page was busy is read before it counts as lost. */
const grace = 150

/** What sounds here, and how it is silenced. */
interface Sounding {
  site: {
    readonly id: string | null
    onSound: (events: { hush: () => void, word: () => void }) => void
    tell: (type: 'sounding' | 'hush') => void
  }
  sounds: Ref<boolean>
  silence: () => void
  /** Says why it became silent. */
  lost: () => void
}

/**
 * The word that this page may sound. It is the server's, asked for as long as something sounds, and lost when the line
 * is silent for too long; every other page of the site can take it back, also of this browser while the server is slow.
 */
export function useWord({ site, sounds, silence, lost }: Sounding) {
  const pages = new BroadcastChannel('kovrin-hush')
  let heard = 0
  site.onSound({ hush: silence, word: () => (heard = performance.now()) })
  pages.addEventListener('message', ({ data }: MessageEvent) => {
    if (data === site.id) silence()
  })
  const isLost = () => sounds.value && performance.now() - heard > holds
  const { pause, resume } = useIntervalFn(() => {
    site.tell('sounding')
    if (!isLost()) return
    setTimeout(() => {
      if (!isLost()) return
      silence()
      lost()
    }, grace)
  }, askEvery, { immediate: false })
  watch(sounds, (is) => {
    heard = performance.now()
    if (is) resume()
    else pause()
  }, { flush: 'sync' })
  return {
    /** Takes the word from every page of the site. */
    takeBack() {
      pages.postMessage(site.id)
      site.tell('hush')
    },
  }
}
