import { refusal } from '../words'

/** Most addresses that are asked at once: four networks of 254. */
const mostAddresses = 1024

const numberOf = (parts: readonly string[]) =>
  parts.reduce((sum, part) => 256 * sum + Number(part), 0)
const textOf = (number: number) => [24, 16, 8, 0].map(bits => Math.floor(number / 2 ** bits) % 256).join('.')
const isByte = (part: string | undefined) => part !== undefined && /^\d{1,3}$/.test(part) && Number(part) <= 255

/** A whole IPv4 address as a number; `like` gives what a short one leaves out at its front. */
function readAddress(text: string, like: readonly string[] = []): number | null {
  const own = text.split('.')
  const parts = [...like.slice(0, 4 - own.length), ...own]
  return parts.length === 4 && parts.every(isByte) ? numberOf(parts) : null
}

/** First and last number of `10.0.0.1`, `10.0.0.1-254`, `10.0.0.1-1.20` or `10.0.0.0/24`; null for none of them. */
function rangeOf(text: string): [number, number] | null {
  const [, base, bits] = /^([\d.]+)\/(\d{1,2})$/.exec(text) ?? []
  if (base !== undefined && bits !== undefined) {
    const number = readAddress(base)
    const size = 2 ** (32 - Number(bits))
    if (number === null || Number(bits) > 32) return null
    const first = Math.floor(number / size) * size
    // the first and the last of a network are no device's
    return size > 2 ? [first + 1, first + size - 2] : [first, first + size - 1]
  }
  const [from, to] = text.split(/[-–]/).map(part => part.trim()) as [string, string | undefined]
  const first = readAddress(from)
  const last = to === undefined ? first : readAddress(to, from.split('.'))
  return first === null || last === null || last < first ? null : [first, last]
}

/**
 * Addresses to ask whether a device answers: `10.0.0.7:65000`, `10.0.0.1-254:65000`, `10.0.0.0/24:65000`.
 * @param text what was typed: IPv4 addresses, then the port
 * @returns `host:port`, upwards
 * @throws Refusal for what is no range, has no port, or has more addresses than are asked at once
 */
export function addressesIn(text: string): string[] {
  const cut = text.lastIndexOf(':')
  const port = Number(text.slice(cut + 1))
  if (cut < 0 || !Number.isInteger(port) || port < 1 || port > 65_535) throw refusal('search.noPort')
  const range = rangeOf(text.slice(0, cut).trim())
  if (!range) throw refusal('search.noRange', { range: text.slice(0, 80) })
  const [first, last] = range
  const count = last - first + 1
  if (count > mostAddresses) throw refusal('search.many', { count, most: mostAddresses })
  return Array.from({ length: count }, (_, n) => `${textOf(first + n)}:${port}`)
}
