import { defineStore } from 'pinia'

/** A question that waits for its answer. */
export interface Question {
  text: string
  yes: string
  answer: (agreed: boolean) => void
}

/** Asks before something that cannot be heard back: one question at a time, a newer one lets the older go. */
export const useAgreement = defineStore('agreement', () => {
  const question = shallowRef<Question | null>(null)
  const answer = (agreed: boolean) => {
    const asked = question.value
    question.value = null
    asked?.answer(agreed)
  }
  const ask = (text: string, yes: string) =>
    new Promise<boolean>((resolve) => {
      answer(false)
      question.value = { text, yes, answer: resolve }
    })
  return { question, ask, answer }
})
