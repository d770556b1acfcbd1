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
  return alike(a, b)
}

/** What JSON makes of a member. */
const asJson = (value: unknown): unknown =>
  (typeof value === 'number' && !Number.isFinite(value)) || value === undefined ? null : value
const isPlain = (value: object): boolean => {
  const kind: unknown = Object.getPrototypeOf(value)
  return kind === Object.prototype || kind === Array.prototype || kind === null
}

/** The same without a text of either: this is asked of every value of every edit. */
function alike(a: object, b: object): boolean {
  if (!isPlain(a) || !isPlain(b)) return canonical(a) === canonical(b)
  if (Array.isArray(a) !== Array.isArray(b)) return false
  if (Array.isArray(a) && Array.isArray(b))
    return a.length === b.length && a.every((value, k) => member(asJson(value), asJson((b as unknown[])[k])))
  const [one, other] = [a as Record<string, unknown>, b as Record<string, unknown>]
  let count = 0
  for (const key in one) {
    if (one[key] === undefined) continue
    count++
    if (other[key] === undefined || !member(asJson(one[key]), asJson(other[key]))) return false
  }
  for (const key in other) if (other[key] !== undefined) count--
  return count === 0
}
const member = (a: unknown, b: unknown): boolean =>
  a === b || (typeof a === 'object' && typeof b === 'object' && a !== null && b !== null && alike(a, b))
