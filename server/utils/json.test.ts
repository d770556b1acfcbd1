import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { jsonBounds, parseJson } from './json'

const read = (text: string) => parseJson(Buffer.from(text))

describe('JSON that comes from outside', () => {
  it('reads what JSON.parse reads, whatever stands in its texts', () => {
    const keepable = fc.jsonValue({ depthSize: 'small', maxDepth: 20, stringUnit: 'grapheme' })
    fc.assert(fc.property(keepable, fc.boolean(), (value, escaped) => {
      const plain = JSON.stringify(value)
      const asEscape = (c: string) => `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`
      const text = escaped ? plain.replace(/[^\0-\x7F]/g, asEscape) : plain
      expect(read(text)).toEqual(plain.includes('\\u0000')
        ? { ok: false, why: expect.saying('NUL') }
        : { ok: true, value: JSON.parse(text) })
    }), { numRuns: 500 })
  })
  it.each([
    ['a NUL', '["a\\u0000"]', 'NUL'],
    ['the first half of a pair alone', '{"a":"\\ud83d"}', 'surrogate'],
    ['two first halves', '"\\ud83d\\ud83d"', 'surrogate'],
    ['the second half alone', '"\\uDE00x"', 'surrogate'],
    ['a nest without end', '['.repeat(200_000), 'nested'],
    ['a nest that is closed again', `${'{"a":'.repeat(100)}1${'}'.repeat(100)}`, 'nested'],
    ['half of it', '{"half', 'not JSON'],
    ['an escape that is none', '"\\uzzzz"', 'not JSON'],
    ['an escape at the very end', '"\\ud83d', 'surrogate'],
  ])('refuses %s in words', (_, text, why) => {
    expect(read(text)).toEqual({ ok: false, why: expect.saying(why) })
  })
  it('takes a backslash before a u that is no escape, and brackets inside texts', () => {
    expect(read('"\\\\u0000"')).toEqual({ ok: true, value: '\\u0000' })
    expect(read(`"${'['.repeat(500)}"`)).toEqual({ ok: true, value: '['.repeat(500) })
  })
})

describe('bounds of JSON that is read as it comes', () => {
  const inPieces = (text: string, size: number, most?: number) => {
    const bytes = Buffer.from(text)
    const bounds = jsonBounds(most)
    for (let at = 0; at < bytes.length; at += size) {
      const why = bounds(bytes.subarray(at, at + size))
      if (why !== null) return why
    }
    return null
  }
  it('stand in no way of JSON within them, however it is cut', () => {
    const keepable = fc.jsonValue({ depthSize: 'small', maxDepth: 20, stringUnit: 'grapheme' })
    fc.assert(fc.property(keepable, fc.integer({ min: 1, max: 9 }), (value, size) => {
      expect(inPieces(JSON.stringify(value), size)).toBeNull()
    }), { numRuns: 300 })
  })
  it('refuse depth and number at once, and count no brackets within texts', () => {
    expect(inPieces('['.repeat(100_000), 1000)).toEqual(expect.saying(/nested more than 64 deep/))
    expect(inPieces('[1,'.repeat(70), 7)).toEqual(expect.saying(/nested more than 64 deep/))
    expect(inPieces(`[${'1,'.repeat(5000)}1]`, 64, 4000)).toEqual(expect.saying(/more than 4000 values/))
    expect(inPieces(JSON.stringify(['[{,\\"'.repeat(5000)]), 3, 4000)).toBeNull()
  })
})
