import { IntlMessageFormat } from 'intl-messageformat'
import { english } from './english'
import { setLanguage, type Code, type Message, type Value } from './message'

const formats = new Map<string, IntlMessageFormat>()
function formatOf(code: Code): IntlMessageFormat {
  const known = formats.get(code) ?? new IntlMessageFormat(english[code], 'en')
  formats.set(code, known)
  return known
}

const isList = (value: Value): value is readonly Message[] => Array.isArray(value)

/** A value as it stands in a sentence. Throws RangeError for a message that cannot be said. */
function sayValue(value: Value): string | number {
  if (typeof value !== 'object') return value
  if (isList(value)) return value.map(sayValue).join(' ')
  const said = say(value)
  if (said === null) throw new RangeError(value.code)
  return said
}

/**
 * The sentence of a message.
 * @returns null for a code that is not known (of a newer Kovrin) or a value that is missing: then what was stored
 * beside it is shown
 */
export function say({ code, values }: Message): string | null {
  if (!Object.hasOwn(english, code)) return null
  try {
    const said = Object.fromEntries(Object.entries(values).map(([name, value]) => [name, sayValue(value)]))
    return String(formatOf(code as Code).format(said))
  }
  catch { return null }
}

/** Has refusals speak English: called once where a program begins that shows or sends words. */
export const speakEnglish = (): void => setLanguage(say)
