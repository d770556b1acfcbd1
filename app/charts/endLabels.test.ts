import { expect, it } from 'vitest'
import { brokenName } from './endLabels'

const widthOf = (text: string) => 6 * text.length

it('a name beside its line is broken between words, never squeezed while a few lines hold it', () => {
  expect(brokenName('Main L now', 160, widthOf)).toEqual(['Main L now'])
  const long = brokenName('Mix desk, 12:06, not predicted: low band and high band alone are missing', 160, widthOf)
  expect(long.join(' ')).toBe('Mix desk, 12:06, not predicted: low band and high band alone are missing')
  expect(long.length).toBeLessThanOrEqual(4)
  for (const line of long) expect(widthOf(line)).toBeLessThanOrEqual(160)
  // a word that is wider by itself stands on a line of its own
  expect(brokenName('Ropewalk Auditorium', 50, widthOf)).toEqual(['Ropewalk', 'Auditorium'])
  expect(brokenName('a '.repeat(300).trim(), 160, widthOf)).toHaveLength(4)
})
