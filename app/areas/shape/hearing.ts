import { defineStore } from 'pinia'
import type { Band } from '~~/core/rig'
import { createLease } from '~/document/useLease'
import { useShaping } from '~/document/shaping'
import { isKind, type Setting } from '~/document/useStrip'
import { useSite } from '~/document/site'
import { useNotices } from '~/parts/notices'
import { message } from '~~/core/words'
import { phrase } from '~/parts/phrase'

/**
 * Filters out of the path for a moment, to hear what they do. The server puts them back, whatever becomes of this
 * page. Passes and limiters keep drivers alive: they stay in.
 */
export const useHearing = defineStore('hearing', () => {
  const site = useSite()
  const shaping = useShaping()
  const notices = useNotices()
  const lease = createLease(site, () => {
    out.value = null
    notices.say('warn', message('bypass.over'))
  })
  /** What is out, in words; null: nothing. */
  const out = ref<string | null>(null)
  const bands = () => shaping.settings.filter(s => isKind(s, 'band')).filter(s => s.draft.on)
  const off = (s: Setting) => ({ ...s.draft as Band, on: false })

  async function takeOut(list: readonly Setting[], words: string) {
    if (!shaping.strip || !list.length) return
    const { device } = shaping.strip
    try {
      await lease.begin(words)
      const kept = await lease.set(list.map(s => ({ device, path: s.parameter.path, value: off(s) })))
      if (kept) out.value = words
      else await lease.end()
    }
    catch (error) { notices.fail(error) }
  }
  async function back() {
    try {
      await lease.end()
    }
    catch (error) { notices.fail(error) }
    out.value = null
  }
  const inHand = () => bands().filter(s => s.parameter.path === shaping.picked)
  const name = () => inHand()[0]?.parameter.short ?? ''
  watch(() => site.id, () => {
    if (out.value) void back()
  })
  return {
    out,
    back,
    can: computed(() => out.value === null && site.live),
    without: () => takeOut(inHand(), phrase('shape.isHeardWithout', { name: shaping.name, filter: name() })),
    alone: () => takeOut(bands().filter(s => s.parameter.path !== shaping.picked),
      phrase('shape.isHeardWithAlone', { name: shaping.name, filter: name() })),
    withoutAll: () => takeOut(bands(), phrase('shape.isHeardWithoutIts', { name: shaping.name })),
  }
})
