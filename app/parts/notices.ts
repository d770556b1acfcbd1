import { defineStore } from 'pinia'

export interface Notice {
  id: number
  kind: 'info' | 'warn' | 'error'
  text: string
  /** What can be done about it, at once. */
  act?: { name: string, run: () => void }
  /** What it is about, where it may be over. */
  about?: string
}

/** Sentences that the user should see once, newest last. */
export const useNotices = defineStore('notices', () => {
  const list = ref<Notice[]>([])
  let next = 1
  const drop = (id: number) => {
    list.value = list.value.filter(n => n.id !== id)
  }
  /** What was said about something is over. */
  const over = (about: string) => {
    list.value = list.value.filter(n => n.about !== about)
  }
  const say = (kind: Notice['kind'], text: string, { act, about }: Pick<Notice, 'act' | 'about'> = {}) => {
    list.value = [
      ...list.value.filter(n => n.text !== text),
      { id: next++, kind, text, ...(act ? { act } : {}), ...(about ? { about } : {}) },
    ].slice(-4)
    const id = next - 1
    if (kind === 'info') setTimeout(() => drop(id), 5000)
  }
  return { list, drop, over, say, fail: (error: unknown) => say('error', (error as Error).message) }
})
