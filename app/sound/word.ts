import { useIntervalFn } from '@vueuse/core'
import { ref, watch, type Ref } from 'vue'
import type { PageMessage, Sounding } from '~~/core/contract'

/** Milliseconds between two questions whether this page may sound on. */
const askEvery = 300
/** A word holds so long: a line that says nothing for longer could not bring a Hush. */
const holds = 2000
/** What came while this page was busy is read before it counts as lost. */
const grace = 150

/** Another page that has not said so for so long sounds no more. */
const otherHolds = 2600

/** What sounds here, and how it is silenced. */
interface Page {
  site: {
    readonly id: string | null
    onSound: (events: {
      hush: () => void
      word: () => void
      other: (page: string, sounding: Sounding) => void
    }) => void
    tell: (message: PageMessage) => void
  }
  sounds: Ref<boolean>
  /** What the others are told of it. */
  said: () => Sounding
  silence: () => void
  /** Says why it became silent. */
  lost: () => void
}

/**
 * The word that this page may sound. It is the server's, asked for as long as something sounds, and lost when the line
 * is silent for too long; every other page of the site can take it back, also of this browser while the server is slow.
 */
export function useWord({ site, sounds, said, silence, lost }: Page) {
  const pages = new BroadcastChannel('kovrin-hush')
  let heard = 0
  /** Who else sounds; null: nobody. */
  const other = ref<Sounding & { page: string } | null>(null)
  let forget: ReturnType<typeof setTimeout> | undefined
  site.onSound({
    hush: silence,
    word: () => (heard = performance.now()),
    other: (page, { who, what, left }) => {
      other.value = { page, who, what, left }
      clearTimeout(forget)
      forget = setTimeout(() => (other.value = null), otherHolds)
    },
  })
  pages.addEventListener('message', ({ data }: MessageEvent) => {
    if (data === site.id) silence()
  })
  const isLost = () => sounds.value && performance.now() - heard > holds
  const { pause, resume } = useIntervalFn(() => {
    site.tell({ type: 'sounding', ...said() })
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
    other,
    /** Takes the word from every page of the site. */
    takeBack() {
      pages.postMessage(site.id)
      site.tell({ type: 'hush' })
    },
  }
}
