import type { english } from './english'

export type Code = keyof typeof english
type Head<S extends string> = S extends `${infer N},${string}` ? N : S
/** Names of the placeholders of a sentence: what stands behind an opening brace, to a comma or its end. */
type NamesIn<S extends string> = S extends `${string}{${infer N}}${infer Rest}` ? Head<N> | NamesIn<Rest> : never
type Placeholder<N extends string> = N extends '' | `${string} ${string}` ? never : N
/** A value of a message; one that is itself a message is said inside it, several one after the other. */
export type Value = string | number | Message | readonly Message[]
/** What a sentence needs to be said. */
export type Values<C extends Code = Code> = Readonly<Record<Placeholder<NamesIn<(typeof english)[C]>>, Value>>

/** The code of a label: of words that need no value. */
export type Label = { [C in Code]: [keyof Values<C>] extends [never] ? C : never }[Code]

/** Something that is told: what it is, and its values. Words are made of it where it is read (`say`). */
export interface Message {
  code: string
  values: Readonly<Record<string, Value>>
}

/** A message by its code, with every value that its sentence needs. */
export const message = <C extends Code>(code: C, ...values: Given<C>): Message => ({ code, values: values[0] ?? {} })
/** The values that a sentence needs, as the rest of the parameters. */
export type Given<C extends Code> = [keyof Values<C>] extends [never] ? [] : [values: Values<C>]

/** Marks round a message in a text (for private use in Unicode: no text has them). */
const [opens, closes] = ['\uE000', '\uE001']
/** A message as part of a text, where no language is known: a worker's texts are said where they are read. */
const unsaid = (told: Message): string => `${opens}${encodeURIComponent(JSON.stringify(told))}${closes}`
/** A text with the messages in it said. */
export const saidWithin = (text: string, say: (told: Message) => string): string =>
  text.includes(opens)
    ? text.replace(/\uE000([^\uE001]*)\uE001/g, (_, told: string) => say(JSON.parse(decodeURIComponent(told))))
    : text

let speak: (told: Message) => string | null = unsaid
/** Sets what makes words of messages, once where a program begins that shows or sends them; null: none is known. */
export function setLanguage(language: ((told: Message) => string | null) | null): void {
  speak = language ?? unsaid
}
/** The words of a message in the language that is set; its code where there is none. */
export const wordsOf = (told: Message): string => speak(told) ?? told.code

/** A label or a sentence by its code, with every value that it needs, in the language that is set. */
export const phrase = <C extends Code>(code: C, ...values: Given<C>): string => wordsOf(message(code, ...values))

/** Why something was not done: a code with its values. What branches on it, does so by `told.code`. */
export class Refusal extends RangeError {
  constructor(readonly told: Message) { super() }
  override get message(): string { return wordsOf(this.told) }
}

/** Whether something is a message. */
export const isMessage = (x: unknown): x is Message =>
  typeof x === 'object' && x !== null && 'code' in x && 'values' in x && typeof x.code === 'string'
  && typeof x.values === 'object'

/** What comes in its own words: of a library, a device, another version. */
export const inWords = (text: string): Message => message('words', { text })

/** A refusal, to be thrown. */
export const refusal = <C extends Code>(code: C, ...values: Given<C>): Refusal => new Refusal(message(code, ...values))

/** What an error tells: a refusal's code and values, anything else in its own words. */
export const toldOf = (error: unknown): Message =>
  error instanceof Refusal
    ? error.told
    : inWords(error instanceof Error ? error.message : String(error))
