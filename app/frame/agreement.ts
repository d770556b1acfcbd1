import { defineStore } from 'pinia'
import { mostLouder } from '~~/core/rig'
import { showLevel, type Decibels } from '~~/core/units'

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
  /** Asks where something gets louder at once by more than goes without a question; true where it need not be asked. */
  async function louder(step: Decibels, what: string): Promise<boolean> {
    if (step <= mostLouder) return true
    const much = Number.isFinite(step) ? showLevel(step) : 'much'
    return ask(`${what}: up to ${much} louder at once.`, `Make it ${much} louder`)
  }
  return { question, ask, louder, answer }
})
