import { IntlMessageFormat } from 'intl-messageformat'
import { english } from './english'

export type Code = keyof typeof english
type Head<S extends string> = S extends `${infer N},${string}` ? N : S
/** Names of the placeholders of a sentence: what stands behind an opening brace, to a comma or its end. */
type NamesIn<S extends string> = S extends `${string}{${infer N}}${infer Rest}` ? Head<N> | NamesIn<Rest> : never
type Placeholder<N extends string> = N extends '' | `#${string}` | `;${string}` ? never : N
/** What a sentence needs to be said. */
export type Values<C extends Code = Code> = Readonly<Record<Placeholder<NamesIn<(typeof english)[C]>>, string | number>>

/** Something that is told: what it is, and its values. Words are made of it where it is read. */
export interface Message {
  code: string
  values: Readonly<Record<string, string | number>>
}

/** A message by its code, with every value that its sentence needs. */
export const message = <C extends Code>(code: C, values: Values<C>): Message => ({ code, values })

const formats = new Map<string, IntlMessageFormat>()
function formatOf(code: Code): IntlMessageFormat {
  const known = formats.get(code) ?? new IntlMessageFormat(english[code], 'en')
  formats.set(code, known)
  return known
}

/**
 * The sentence of a message.
 * @returns null for a code that is not known (of a newer Kovrin) or a value that is missing: then what was stored
 * beside it is shown
 */
export function say({ code, values }: Message): string | null {
  if (!Object.hasOwn(english, code)) return null
  try {
    return String(formatOf(code as Code).format(values))
  }
  catch { return null }
}
