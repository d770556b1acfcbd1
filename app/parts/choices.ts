import type { Label } from '~~/core/words'
import { phrase } from './phrase'

/** What can be picked in a choice, in its own order; those of one group stand together under its name. */
export interface Choice<T> {
  value: T
  label: string
  group?: string
}

/** Choices of a list, each named by `label`. */
export const choicesOf = <T>(list: readonly T[], label: (item: T) => string = String): Choice<T>[] =>
  list.map(value => ({ value, label: label(value) }))

/** Choices of a table of names by what they stand for. */
export const choicesOfNames = <T extends string>(names: Readonly<Record<T, string>>): Choice<T>[] =>
  (Object.keys(names) as T[]).map(value => ({ value, label: names[value] }))
/** Choices of a table of codes of the catalogue by what they stand for. */
export const choicesOfCodes = <T extends string>(codes: Readonly<Record<T, Label>>): Choice<T>[] =>
  Object.entries<Label>(codes).map(([value, code]) => ({ value: value as T, label: phrase(code) }))
