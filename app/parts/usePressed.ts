import { createSharedComposable, useEventListener } from '@vueuse/core'

/**
 * Whether a pointer is pressed somewhere: until the click that comes of it is over, nothing should move from under it.
 */
export const usePressed = createSharedComposable(() => {
  const isPressed = ref(false)
  const released = () => setTimeout(() => (isPressed.value = false))
  useEventListener(window, 'pointerdown', () => (isPressed.value = true), { capture: true, passive: true })
  useEventListener(window, ['pointerup', 'pointercancel'], released, { capture: true, passive: true })
  return readonly(isPressed)
})
