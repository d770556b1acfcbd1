import { useDebounceFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import type { TemporaryAnswer } from '~~/core/contract'
import { ask } from './api'
import { useSite } from './site'
import { useNotices } from '~/parts/notices'

/** Who set something for a while, and for what. */
export type ForNow = Pick<TemporaryAnswer[number], 'who' | 'what'>

/** What stands in devices only for a while, for instance the mutes of a round of sweeps: by whomever, on every page. */
export const useTemporary = defineStore('temporary', () => {
  const site = useSite()
  const notices = useNotices()
  const list = shallowRef<TemporaryAnswer>([])
  async function look() {
    if (!site.open) return void (list.value = [])
    try {
      list.value = await ask<TemporaryAnswer>(site.path('/leases'))
    }
    catch (error) { notices.fail(error) }
  }
  const soon = useDebounceFn(look, 150)
  watch(() => site.open?.id, look, { immediate: true })
  site.onChanges((changes) => {
    if (!changes.length || changes.some(c => c.origin === 'lease')) void soon()
  })
  /** Of a value that stands only for a while; null where it stands for good. */
  const forNow = (device: string, path: string): ForNow | null =>
    list.value.find(t => t.device === device && t.path === path) ?? null
  return { forNow }
})
