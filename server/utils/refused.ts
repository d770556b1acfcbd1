import { createError } from 'h3'
import { Refusal, toldOf, wordsOf, type Message } from '../../core/words'

/** A refusal as HTTP: its status, its code and values, and its words. */
export const refused = (statusCode: number, told: Message, data?: unknown) =>
  createError({ statusCode, message: wordsOf(told), data, cause: new Refusal(told) })

/** A fault that the asker can mend (a RangeError) as 422; anything else as it is. */
export const asRefused = (error: unknown): unknown =>
  error instanceof RangeError ? refused(422, toldOf(error)) : error
