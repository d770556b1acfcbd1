import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { english } from './english'
import { message, phrase, refusal, setLanguage, toldOf, wordsOf, type Code, type Message } from './message'
import { withMarks } from './rewrite'
import { languageOf, say, speakEnglish } from './say'

/** Names of the placeholders of a sentence, by its own syntax. */
const namesIn = (text: string) => [...text.matchAll(/\{(\w+)[,}]/g)].map(m => m[1]!)

describe('the catalogue of sentences', () => {
  it('every sentence is made of its values, and nothing of its syntax is left', () => {
    for (const [code, text] of Object.entries(english)) {
      for (const n of [0, 1, 2, 5]) {
        const values = Object.fromEntries(namesIn(text).map(name =>
          [name, new RegExp(`\\{${name}, plural`).test(text) ? n : `«${name}»`]))
        const said = say({ code, values })!
        expect(said, code).not.toMatch(/[{}#]/)
        for (const [name, value] of Object.entries(values))
          if (typeof value === 'string') expect(said, `${code} ${name}`).toContain(value)
      }
    }
  })
  it('counts agree, and nothing is said of none', () => {
    const over = (restored: number, left: number, waiting: number) =>
      say(message('log.temporary.over', { what: 'The sweep', restored, left, waiting }))
    expect(over(1, 0, 0)).toBe('The sweep is over: 1 setting restored.')
    expect(over(3, 1, 2)).toBe('The sweep is over: 3 settings restored; 1 changed meanwhile and left; '
      + '2 follow when their devices are back.')
  })
  it('values are told as they are, whatever stands in them', () => {
    fc.assert(fc.property(fc.string(), (name) => {
      expect(say(message('log.take.saved', { name }))).toBe(`Saved the take “${name}”.`)
    }))
  })
  it('of what is not known nothing is made up', () => {
    expect(say({ code: 'log.of.another.kovrin', values: {} })).toBeNull()
    expect(say({ code: 'constructor', values: {} })).toBeNull()
    expect(say({ code: 'log.take.saved' satisfies Code, values: {} })).toBeNull()
  })
})

describe('another language', () => {
  const pseudo = Object.fromEntries(Object.entries(english).map(([code, text]) => [code, `⟦${text}⟧`]))
  const other = languageOf(pseudo as Record<Code, string>, 'pl')
  it('says all of a message, what is told inside it too, by its own rules of plurals', () => {
    const inner = message('take.noTake')
    expect(other(message('sheet.line', { line: 3, why: inner }))).toBe('⟦Line 3: ⟦These bytes are not a take.⟧⟧')
    expect(other(message('several', { list: [inner, inner] })))
      .toBe('⟦⟦These bytes are not a take.⟧ ⟦These bytes are not a take.⟧⟧')
    // Polish has forms that English has not: 'other' is taken where a language gives none
    expect(other(message('sweep.gaps', { gaps: 2 }))).toContain('2 gaps')
  })
  it('is what refusals speak once it is set, and codes are what they tell before any is', () => {
    const refused = refusal('wav.noSound')
    try {
      setLanguage(other)
      expect([refused.message, wordsOf(toldOf(refused))]).toEqual(Array(2).fill('⟦The WAV file has no sound in it.⟧'))
      expect(wordsOf(toldOf(new Error('of a library')))).toBe('⟦of a library⟧')
      setLanguage(() => null)
      expect(refused.message).toBe('wav.noSound')
    }
    finally { speakEnglish() }
  })
  it('writes its own words with marks in the pseudo-locale, those of plurals too, and leaves values alone', () => {
    const marked = languageOf(english, 'en', withMarks)
    const told = marked(message('clipboard.copied', { strip: 'Output 1', filters: 2 }))!
    expect(told).toContain('Output 1')
    expect(told.replace('Output 1', '')).not.toMatch(/[a-z]/i)
    expect([...told].length).toBe([...say(message('clipboard.copied', { strip: 'Output 1', filters: 2 }))!].length)
  })
  it('says what was put into a text where no language was known, however deep', () => {
    fc.assert(fc.property(fc.string(), (name) => {
      setLanguage(null)
      const inner = phrase('rig.whatFeedsInput', { device: name, channel: phrase('rig.eqBand', { number: 3 }) })
      const told = JSON.parse(JSON.stringify(message('words.because', { what: `(${inner})`, why: name }))) as Message
      speakEnglish()
      expect(wordsOf(told)).toBe(`(What feeds ${name} input EQ band 3): ${name}`)
    }))
  })
})
