type Joined<T extends readonly string[]>
  = T extends readonly [infer A extends string, ...infer Rest extends readonly string[]] ? `${A}${Joined<Rest>}` : ''

/** A sentence of several lines of code as one, also in its type, so that its placeholders are known. */
export const lines = <const T extends readonly string[]>(...parts: T) => parts.join('') as Joined<T>
