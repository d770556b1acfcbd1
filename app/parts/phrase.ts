import { createI18n, type MessageContext } from 'vue-i18n'
import { setLanguage, type Message } from '~~/core/words'
import { english } from '~~/core/words/english'
import { languageOf } from '~~/core/words/say'
import { withMarks } from '~~/core/words/rewrite'

/** Languages of the page (BCP 47). `en-XA` is English in letters with marks: a word without them is in no catalogue. */
const languages = {
  'en': languageOf(english, 'en'),
  'en-XA': languageOf(english, 'en', withMarks),
} as const
type Language = keyof typeof languages
const isKnown = (language: string): language is Language => Object.hasOwn(languages, language)

/** The language of the browser where Kovrin knows it. */
export const language: Language = globalThis.navigator?.languages?.find(isKnown) ?? 'en'

/** The page's words: one catalogue of ICU sentences with core and server, so they are said as those say them. */
export const i18n = createI18n({
  legacy: false,
  locale: language,
  messages: { [language]: english },
  missingWarn: false,
  fallbackWarn: false,
  messageResolver: (sentences, code) => (sentences as Record<string, string>)[code] ?? null,
  messageCompiler: (_, { key }) => (given: MessageContext) =>
    languages[language]({ code: key, values: given.values as Message['values'] }) ?? key,
})

setLanguage(told => (told.code in english ? i18n.global.t(told.code, told.values as Record<string, unknown>) : null))

export { phrase } from '~~/core/words'
