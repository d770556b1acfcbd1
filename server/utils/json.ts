import { message, type Message } from '../../core/words'

/** Deepest nesting that is taken: nothing of the contract has more, and no check of it can run out of stack. */
const deepest = 64
const [quote, slash, comma, u] = [...'"\\,u'].map(c => c.charCodeAt(0))
const [openBrace, closeBrace, openBracket, closeBracket] = [...'{}[]'].map(c => c.charCodeAt(0))

const hexAt = (bytes: Uint8Array, at: number) =>
  Number.parseInt(String.fromCharCode(...bytes.subarray(at, at + 4)), 16)

/** Most values that a streamed body may have: a site of a thousand takes has far fewer. */
const mostValues = 3_000_000

/**
 * Counts depth and values of JSON text as it comes, before anything is made of it: 16 MiB of brackets would take
 * gigabytes. Gives why it is not taken, or null.
 */
export function jsonBounds(most = mostValues): (piece: Uint8Array) => Message | null {
  let depth = 0
  let values = 0
  let inText = false
  let escaped = false
  return (piece) => {
    for (const b of piece) {
      if (inText) {
        if (escaped) escaped = false
        else if (b === slash) escaped = true
        else if (b === quote) inText = false
      }
      else if (b === quote) inText = true
      else if (b === openBrace || b === openBracket) {
        values++
        if (++depth > deepest) return message('json.deep', { deepest })
      }
      else if (b === closeBrace || b === closeBracket) depth--
      else if (b === comma) values++
    }
    return values > most ? message('json.manyValues', { most }) : null
  }
}

/**
 * Why JSON text in UTF-8 is not taken though it may be JSON: nested too deep, or with a text that no database keeps
 * (NUL, half of a surrogate pair). Null when nothing speaks against it. One pass, without recursion.
 */
export function unkeepable(bytes: Uint8Array): Message | null {
  let depth = 0
  let inText = false
  for (let k = 0; k < bytes.length; k++) {
    const b = bytes[k]
    if (inText) {
      if (b === quote) inText = false
      if (b !== slash) continue
      k++
      if (bytes[k] !== u) continue
      const code = hexAt(bytes, k + 1)
      k += 4
      if (code === 0) return message('json.nul')
      if (!(code >= 0xD800 && code <= 0xDFFF)) continue
      const isPair = code < 0xDC00 && bytes[k + 1] === slash && bytes[k + 2] === u
      const low = isPair ? hexAt(bytes, k + 3) : 0
      if (!(low >= 0xDC00 && low <= 0xDFFF)) return message('json.half')
      k += 6
    }
    else if (b === quote) inText = true
    else if (b === openBrace || b === openBracket) {
      if (++depth > deepest) return message('json.deep', { deepest })
    }
    else if (b === closeBrace || b === closeBracket) depth--
  }
  return null
}

/** JSON text as its value, or why it is not taken. */
export function parseJson(bytes: Buffer): { ok: true, value: unknown } | { ok: false, why: Message } {
  const why = unkeepable(bytes)
  if (why !== null) return { ok: false, why }
  try {
    return { ok: true, value: JSON.parse(bytes.toString('utf8')) }
  }
  catch { return { ok: false, why: message('json.none') } }
}
