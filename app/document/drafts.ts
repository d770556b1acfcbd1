import { useDebounceFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import type { UnsentAnswer } from '~~/core/contract'
import { ask, personKey } from './api'
import { useAgreement } from './agreement'
import { useSite } from './site'
import { useNotices } from '~/parts/notices'
import { phrase } from '~/parts/phrase'

/** Who wrote what is not sent yet: one's own is sent and let go by itself, what others wrote only when meant. */
export const useDrafts = defineStore('drafts', () => {
  const site = useSite()
  const notices = useNotices()
  const agreement = useAgreement()
  const authors = shallowRef<UnsentAnswer>([])
  async function look() {
    if (!site.open || !site.unsentCount) return void (authors.value = [])
    try {
      authors.value = await ask<UnsentAnswer>(site.path('/unsent'))
    }
    catch (error) { notices.fail(error) }
  }
  watch(() => site.unsent, useDebounceFn(look, 300), { immediate: true })
  const isUnsent = ({ device, path }: UnsentAnswer[number]) => site.unsent[device]?.some(u => u.path === path)
  const foreign = computed(() => authors.value.filter(a => a.person !== personKey() && isUnsent(a)))
  /** Names of those who wrote some of it, each once. */
  const others = computed(() => [...new Set(foreign.value.map(a => a.who))])
  const mine = computed(() => site.unsentCount - foreign.value.length)
  /** Who wrote an unsent value last, where somebody else did. */
  const byOf = (device: string, path: string) =>
    foreign.value.find(a => a.device === device && a.path === path)?.who ?? null
  /** Whether all are meant, as they are now: what others wrote a moment ago counts too. */
  async function meant(doing: string, yes: string): Promise<boolean> {
    await look()
    const count = foreign.value.length
    if (!count) return true
    return agreement.ask(
      phrase('document.ofUnsentEditsWas', {
        count,
        unsentCount: site.unsentCount,
        others: others.value.join(', '),
        doing,
      }), yes, phrase('document.alsoWhatOthersWrote', {
        yes,
      }))
  }
  return {
    foreign, others, mine, byOf,
    // the server knows whose they are, also of what has just been written
    send: () => site.send('mine'),
    drop: () => site.drop('mine'),
    async sendAll() {
      if (await meant('sent', phrase('common.sendAll'))) await site.send('all')
    },
    async dropAll() {
      if (await meant('discarded', phrase('document.discardAll'))) await site.drop('all')
    },
  }
})
