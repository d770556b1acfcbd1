/**
 * A number of things in words: '1 filter', '3 filters', '2 boxes'.
 * @param count how many
 * @param one the thing in the singular
 * @param several the thing in the plural, where that is not the singular with an s
 */
export const counted = (count: number, one: string, several = `${one}s`): string =>
  `${count} ${count === 1 ? one : several}`
