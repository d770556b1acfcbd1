import { defineStore } from 'pinia'

export interface Notice {
  id: number
  kind: 'info' | 'warn' | 'error'
  text: string
  /** What can be done about it, at once. */
  act?: { name: string, run: () => void }
}

/** Sentences that the user should see once, newest last. */
export const useNotices = defineStore('notices', () => {
  const list = ref<Notice[]>([])
  let next = 1
  const drop = (id: number) => {
    list.value = list.value.filter(n => n.id !== id)
  }
  const say = (kind: Notice['kind'], text: string, act?: Notice['act']) => {
    list.value = [
      ...list.value.filter(n => n.text !== text),
      { id: next++, kind, text, ...(act ? { act } : {}) },
    ].slice(-4)
    const id = next - 1
    if (kind === 'info') setTimeout(() => drop(id), 5000)
  }
  return { list, drop, say, fail: (error: unknown) => say('error', (error as Error).message) }
})
