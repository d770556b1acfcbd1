import { defineStore } from 'pinia'
import { toldOf, wordsOf, type Message } from '~~/core/words'

export interface Notice {
  id: number
  kind: 'info' | 'warn' | 'error'
  told: Message
  /** What can be done about it, at once. */
  act?: { name: string, run: () => void }
  /** What it is about, where it may be over. */
  about?: string
}

/** What the user should be told once, newest last. */
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
  const say = (kind: Notice['kind'], told: Message, { act, about }: Pick<Notice, 'act' | 'about'> = {}) => {
    list.value = [
      ...list.value.filter(n => wordsOf(n.told) !== wordsOf(told)),
      { id: next++, kind, told, ...(act ? { act } : {}), ...(about ? { about } : {}) },
    ].slice(-4)
    const id = next - 1
    if (kind === 'info') setTimeout(() => drop(id), 5000)
  }
  return { list, drop, over, say, fail: (error: unknown) => say('error', toldOf(error)) }
})
