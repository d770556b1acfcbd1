import { useEventListener } from '@vueuse/core'

/** What an overlay of the library offers of its own way to follow what it hangs on. */
interface Hanging {
  unbindScrollListener: () => void
  alignOverlay: () => void
}

/**
 * Keeps an open list open while what is around it moves: the library closes it at the first scroll, and panels scroll
 * by themselves when findings come and go above. It follows its field instead.
 */
export function useStayOpen(part: Readonly<Ref<unknown>>) {
  let stop: (() => void) | null = null
  const hidden = () => {
    stop?.()
    stop = null
  }
  onBeforeUnmount(hidden)
  return {
    shown() {
      const overlay = part.value as Hanging
      overlay.unbindScrollListener()
      const within = (target: EventTarget | null) =>
        target instanceof Element && target.closest('.p-select-overlay, .p-menu') !== null
      stop = useEventListener(window, 'scroll', ({ target }) => {
        if (!within(target)) overlay.alignOverlay()
      }, { capture: true, passive: true })
    },
    hidden,
  }
}
