import { expect } from 'vitest'
import { wordsOf, type Message } from '../words'
import { speakEnglish } from '../words/say'

// refusals speak in tests as they do where they are read
speakEnglish()

expect.extend({
  saying(told: Message, wanted: string | RegExp) {
    const words = typeof told?.code === 'string' ? wordsOf(told) : `no message: ${String(told)}`
    const pass = typeof wanted === 'string' ? words.includes(wanted) : wanted.test(words)
    return { pass, message: () => `“${words}” does not say ${String(wanted)}` }
  },
})
