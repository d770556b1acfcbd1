import { afterEach, describe, expect, it, vi } from 'vitest'
import { patiently, AnswerRefusal } from './api'
import { message } from '~~/core/words'

afterEach(() => vi.useRealTimers())

/** Answers in turn: a number is a refusal with that status. */
function answering(...answers: (number | string)[]) {
  const left = [...answers]
  const asked: (number | string)[] = []
  return {
    asked,
    make: async () => {
      const next = left.shift()!
      asked.push(next)
      if (typeof next === 'number') throw new AnswerRefusal(message('server.answered', { status: next }), next, null)
      return next
    },
  }
}

describe('asking for as long as somebody is away', () => {
  it('goes on until there is an answer, and says who is away', async () => {
    vi.useFakeTimers()
    const { make, asked } = answering(0, 503, 'here')
    const told: string[] = []
    const answer = patiently(make, who => told.push(who) > 0)
    await vi.advanceTimersByTimeAsync(900)
    expect(asked).toEqual([0])
    await vi.advanceTimersByTimeAsync(2000)
    expect(await answer).toBe('here')
    expect(told).toEqual(['Kovrin’s server does not answer.', 'Kovrin’s database does not answer.'])
  })
  it.each([400, 404, 409, 413, 422, 500])('is not told twice what %i says', async (status) => {
    const { make, asked } = answering(status, 'never')
    await expect(patiently(make, () => true)).rejects.toMatchObject({ status })
    expect(asked).toEqual([status])
  })
  it('ends when nobody wants it any more', async () => {
    const { make, asked } = answering(0, 'never')
    expect(await patiently(make, () => false)).toBeNull()
    expect(asked).toEqual([0])
  })
})
