import { defineStore } from 'pinia'
import type { Louder } from '~~/core/contract'
import type { Rise } from '~~/core/documents'
import { AnswerRefusal } from './api'
import { phrase } from '~/parts/phrase'

/** A question that waits for its answer. */
export interface Question {
  title: string
  text: string
  /** What would get louder, or be protected less; the worst first. */
  rises: readonly Rise[]
  yes: string
  answer: (agreed: boolean) => void
}

/** What a person did not agree to: nothing was done, and nothing more need be said. */
export class NotAgreed extends Error {
  constructor() {
    super(phrase('document.notApplied'))
  }
}

const risesIn = (error: unknown): Rise[] | null =>
  error instanceof AnswerRefusal && error.status === 409 ? (error.data as Louder | null)?.louder ?? null : null

/** Asks before something that cannot be heard back: one question at a time, a newer one lets the older go. */
export const useAgreement = defineStore('agreement', () => {
  const question = shallowRef<Question | null>(null)
  const answer = (agreed: boolean) => {
    const asked = question.value
    question.value = null
    asked?.answer(agreed)
  }
  const put = (asked: Omit<Question, 'answer'>) =>
    new Promise<boolean>((resolve) => {
      answer(false)
      question.value = { ...asked, answer: resolve }
    })
  const ask = (
    text: string,
    yes: string,
    title = phrase('document.playTestSignals'),
  ) => put({ title, text, rises: [], yes })

  /**
   * Asks the server for something that may make loudspeakers louder; what it lists is put to the person, and asked for
   * again with what was agreed to. Throws NotAgreed where it was not.
   */
  async function through<T>(request: (agreed: readonly Rise[]) => Promise<T>): Promise<T> {
    let agreed: Rise[] = []
    for (;;) {
      try {
        return await request(agreed)
      }
      catch (error) {
        const rises = risesIn(error)
        if (!rises) throw error
        const yes = await put({
          title: phrase('document.thisRaisesTheLevel'),
          text: phrase('document.nothingHasBeenSent'),
          rises,
          yes: phrase('common.apply'),
        })
        if (!yes) throw new NotAgreed()
        agreed = [...agreed.filter(a => !rises.some(r => r.key === a.key)), ...rises]
      }
    }
  }
  return { question, ask, through, answer }
})
