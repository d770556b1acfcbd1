/**
 * Guards a field that somebody is in: nothing is written over it. What arrives meanwhile from elsewhere is `arrived`,
 * to be shown beside it; what the field itself sent is not.
 */
export function useEntry<T>(value: () => T, same: (a: T, b: T) => boolean = Object.is) {
  const inside = ref(false)
  const before = shallowRef(value())
  let sent: { value: T } | null = null
  let justSent = false
  watch(
    value,
    (now) => {
      if (!inside.value || justSent || (sent && same(now, sent.value))) before.value = now
    },
    { flush: 'sync' },
  )
  return {
    inside: readonly(inside),
    /** The field's value as it was, or as somebody else has made it since; null where nothing arrived. */
    arrived: computed<{ value: T } | null>(() =>
      inside.value && !same(value(), before.value) ? { value: value() } : null),
    enter() {
      before.value = value()
      sent = null
      inside.value = true
    },
    leave() {
      inside.value = false
    },
    /** The field itself sends this: what comes of it at once, and its echo, are its own. */
    sends(next: T) {
      sent = { value: next }
      justSent = true
      void nextTick(() => {
        justSent = false
      })
    },
  }
}
