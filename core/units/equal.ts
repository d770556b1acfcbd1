/** Keys in one order at every depth, so that equal contents give equal text. */
const sorted = (value: unknown): unknown => {
  if (Array.isArray(value)) return value.map(sorted)
  if (value === null || typeof value !== 'object') return value
  const entries = Object.entries(value).filter(([, x]) => x !== undefined)
  return Object.fromEntries(entries.sort(([a], [b]) => (a < b ? -1 : 1)).map(([k, x]) => [k, sorted(x)]))
}

/** JSON with sorted keys: the same text for the same content, whatever the order in which it was made. */
export const canonical = (value: unknown): string => JSON.stringify(sorted(value)) ?? 'undefined'

/** Equal as JSON; a missing value equals only a missing one. */
export function equal(a: unknown, b: unknown): boolean {
  if (a === b) return true
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false
  return canonical(a) === canonical(b)
}
