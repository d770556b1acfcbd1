import type { IntlMessageFormat } from 'intl-messageformat'

type Ast = ReturnType<IntlMessageFormat['getAst']>
type Element = Ast[number]
/** Writes a run of letters of a sentence anew. */
export type Rewrite = (text: string) => string

/** Kind of an element that is text of the sentence itself (`TYPE.literal` of the parser of ICU MessageFormat). */
const isText = 0

/** A sentence with its own words written anew, also those of its plurals; its values stay. */
export function rewritten(sentence: Ast, rewrite: Rewrite): Ast {
  const one = (element: Element): Element => {
    if (element.type === isText) return { ...element, value: rewrite(element.value) } as Element
    if (!('options' in element)) return element
    const options = Object.entries(element.options).map(([key, o]) => [key, { ...o, value: o.value.map(one) }])
    return { ...element, options: Object.fromEntries(options) } as Element
  }
  return sentence.map(one)
}

const plain = 'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ'
const marked = 'áƀçđéƒǧĥíĵķĺɱñóƥɋŕšťúṽŵẋýžÁƁÇĐÉƑǦĤÍĴĶĹṀÑÓƤɊŔŠŤÚṼŴẊÝŽ'

/**
 * English in letters with marks, for the pseudo-locale `en-XA` (common practice): it can still be read, and a word
 * on a screen without marks did not come out of the catalogue.
 */
export const withMarks: Rewrite = text => text.replace(/[a-z]/gi, letter => marked[plain.indexOf(letter)]!)
