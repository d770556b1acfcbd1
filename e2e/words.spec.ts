import { type Page } from '@playwright/test'
import { allOf } from '../core/documents'
import { cell, expect, test } from './pages'

/** Signs of units and quantities, of formats and keys, and names: the same in every language. */
const signs = new Set([
  'dB', 'dBFS', 'dBu', 'dBV', 'SPL', 'Hz', 'kHz', 'ms', 'kPa', 'oct', 'RMS', 'Leq', 'THD', 'EDT', 'STI', 'EQ', 'FIR',
  'ISO', 'Kovrin', 'Ctrl', 'Esc', 'Shift', 'Alt', 'JSON', 'WAV', 'SVG', 'PNG', 'CSV',
])

/** What stands on the screen or is read aloud there: texts, titles, labels, placeholders. */
const shown = (page: Page) => page.evaluate(() => {
  const texts: string[] = []
  const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_ELEMENT | NodeFilter.SHOW_TEXT)
  for (let node: Node | null = walk.currentNode; node; node = walk.nextNode()) {
    if (node instanceof Text) {
      const holder = node.parentElement!
      if (!['SCRIPT', 'STYLE'].includes(holder.tagName) && holder.checkVisibility()) texts.push(node.data)
      continue
    }
    for (const name of ['title', 'aria-label', 'placeholder', 'alt']) {
      const said = (node as Element).getAttribute(name)
      if (said) texts.push(said)
    }
  }
  return texts
})

/** Every word of what a site's documents say, which is its owner's. */
function wordsIn(value: unknown): string[] {
  if (typeof value === 'string') return value.match(/[A-Za-z]{2,}/g) ?? []
  if (typeof value !== 'object' || value === null) return []
  return Object.values(value).flatMap(wordsIn)
}

test.use({ locale: 'en-XA' })

test('nothing on a screen is composed outside the catalogue: in a pseudo-locale every word has marks', async ({
  page, site,
}) => {
  const documents = await site.documents()
  const own = new Set(wordsIn(documents))
  const [source] = allOf(documents, 'source')
  const [position] = allOf(documents, 'position')
  const found = new Map<string, string>()
  const places = [
    'site', 'site/distances', 'rig', 'listen', 'shape', 'align/times', 'align/pair', 'align/whole', 'align/levels',
    'align/phase', 'run', 'watch',
  ]
  for (const place of places) {
    await page.goto(`${site.page}/${place}?cell=${source!.id}/${position!.id}`)
    await expect(cell(page, `${source!.id}/${position!.id}`).first()).toBeAttached()
    for (const text of await shown(page)) {
      const words = (text.match(/[A-Za-z]{2,}/g) ?? []).filter(w => !own.has(w) && !signs.has(w))
      if (words.length) found.set(text.trim(), place)
    }
  }
  expect([...found].map(([text, place]) => `${place}: ${text}`)).toEqual([])
})
