import { IntlMessageFormat } from 'intl-messageformat'
import { english } from './english'
import { saidWithin, setLanguage, type Code, type Message, type Value } from './message'
import { rewritten, type Rewrite } from './rewrite'

/** The sentences of a language by their codes, in ICU MessageFormat. */
export type Catalogue = Readonly<Record<Code, string>>

const isList = (value: Value): value is readonly Message[] => Array.isArray(value)

/**
 * What makes sentences of messages in one language; `locale` (BCP 47) rules its plurals and numbers, and `rewrite`
 * writes the words of the catalogue anew (never a value). It gives null for a code that is not known (of a newer
 * Kovrin) or a value that is missing: then what was stored beside it is shown.
 */
export function languageOf(
  catalogue: Catalogue, locale: string, rewrite?: Rewrite,
): (told: Message) => string | null {
  const formats = new Map<string, IntlMessageFormat>()
  function formatOf(code: Code): IntlMessageFormat {
    const known = formats.get(code)
    if (known) return known
    const plain = new IntlMessageFormat(catalogue[code], locale)
    const format = rewrite ? new IntlMessageFormat(rewritten(plain.getAst(), rewrite), locale) : plain
    formats.set(code, format)
    return format
  }
  /** A value as it stands in a sentence. Throws RangeError for a message that cannot be said. */
  function sayValue(value: Value): string | number {
    if (typeof value === 'string') return saidWithin(value, sayValue as (told: Message) => string)
    if (typeof value !== 'object') return value
    if (isList(value)) return value.map(sayValue).join(' ')
    const said = speak(value)
    if (said === null) throw new RangeError(value.code)
    return said
  }
  function speak({ code, values }: Message): string | null {
    if (!Object.hasOwn(catalogue, code)) return null
    try {
      const said = Object.fromEntries(Object.entries(values).map(([name, value]) => [name, sayValue(value)]))
      return String(formatOf(code as Code).format(said))
    }
    catch { return null }
  }
  return speak
}

/** The sentence of a message in English. */
export const say = languageOf(english, 'en')

/** Has refusals speak English: called once where a program begins that shows or sends words. */
export const speakEnglish = (): void => setLanguage(say)
