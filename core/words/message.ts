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

/** Something that is told: what it is, and its values. Words are made of it where it is read (`say`). */
export interface Message {
  code: string
  values: Readonly<Record<string, Value>>
}

/** A message by its code, with every value that its sentence needs. */
export const message = <C extends Code>(code: C, ...values: Given<C>): Message => ({ code, values: values[0] ?? {} })
/** The values that a sentence needs, as the rest of the parameters. */
export type Given<C extends Code> = [keyof Values<C>] extends [never] ? [] : [values: Values<C>]

let speak: (told: Message) => string | null = () => null
/** Sets what makes words of messages, once where a program begins: before that, a refusal's words are its code. */
export function setLanguage(language: (told: Message) => string | null): void {
  speak = language
}
/** The words of a message in the language that is set; its code where there is none. */
export const wordsOf = (told: Message): string => speak(told) ?? told.code

/** Why something was not done: a code with its values. What branches on it, does so by `told.code`. */
export class Refusal extends RangeError {
  constructor(readonly told: Message) { super() }
  override get message(): string { return wordsOf(this.told) }
}

/** What comes in its own words: of a library, a device, another version. */
export const inWords = (text: string): Message => message('words', { text })

/** A refusal, to be thrown. */
export const refusal = <C extends Code>(code: C, ...values: Given<C>): Refusal => new Refusal(message(code, ...values))

/** What an error tells: a refusal's code and values, anything else in its own words. */
export const toldOf = (error: unknown): Message =>
  error instanceof Refusal
    ? error.told
    : inWords(error instanceof Error ? error.message : String(error))
