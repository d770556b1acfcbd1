import type { Page } from '@playwright/test'
import { allOf } from '../core/documents'
import { simulatedInputs, simulatedOutputs } from '../standins/venue/offers'
import { cell, expect, madeTake, test } from './pages'

/** Signs of units and quantities, of formats, keys and methods, and names: the same in every language. */
const signs = new Set([
  'dB', 'dBFS', 'dBu', 'dBV', 'SPL', 'Hz', 'kHz', 'ms', 'kPa', 'oct', 'RMS', 'Leq', 'THD', 'EDT', 'STI', 'EQ', 'FIR',
  'ISO', 'Kovrin', 'Ctrl', 'Esc', 'Shift', 'Alt', 'JSON', 'WAV', 'SVG', 'PNG', 'CSV', 'Ts', 'Hg', 'kB', 'MB',
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

/** Words of dates and of times ago, which the browser makes. */
function wordsOfTime(): string[] {
  const ago = new Intl.RelativeTimeFormat('en', { numeric: 'auto' })
  const units = ['minute', 'hour', 'day'] as const
  return wordsIn([
    units.flatMap(unit => [0, -1, -2].map(n => ago.format(n, unit))),
    Array.from({ length: 24 }, (_, n) => new Date(2026, n % 12, 1, n).toLocaleString('en', {
      dateStyle: 'medium', timeStyle: 'short',
    })),
  ])
}

/** Every word of what a site's documents say, which is its owner's. */
function wordsIn(value: unknown): string[] {
  if (typeof value === 'string') return value.match(/[A-Za-z]{2,}/g) ?? []
  if (typeof value !== 'object' || value === null) return []
  return Object.values(value).flatMap(wordsIn)
}

/** Plates of a site by their addresses; what a page says of itself elsewhere stands beside them. */
const plates = [
  'site', 'site/distances', 'rig', 'listen', 'listen/inputs', 'shape', 'shape/sheets', 'align/times',
  'align/pair', 'align/whole', 'align/levels', 'align/phase', 'run', 'watch', 'shape/ledger',
]

test.use({ locale: 'en-XA' })

test('nothing on a screen is composed outside the catalogue: in a pseudo-locale every word has marks', async ({
  page, site,
}) => {
  const documents = await site.documents()
  const [source] = allOf(documents, 'source')
  const [position] = allOf(documents, 'position')
  const data = madeTake(source!.id, position!.id).body((await site.get()).number)
  const headers = { 'content-type': 'application/octet-stream' }
  expect((await site.request.post(`${site.path}/takes`, { data, headers })).status()).toBe(201)
  // the simulated interface names its channels, as a driver names a real one's
  const documented = [await site.documents(), simulatedInputs, simulatedOutputs]
  const own = new Set([...wordsIn(documented), ...wordsOfTime()])
  const found = new Map<string, string>()
  const look = async (place: string) => {
    for (const text of await shown(page)) {
      // where backups lie is the machine's own
      const said = text.replace(/(\/[\w.-]+)+/g, '').match(/[A-Za-z]{2,}/g) ?? []
      const words = said.filter(w => !own.has(w) && !signs.has(w))
      if (words.length) found.set(text.trim(), place)
    }
  }
  const picked = `${source!.id}/${position!.id}`
  for (const plate of plates) {
    await page.goto(`${site.page}/${plate}?cell=${picked}`)
    await expect(cell(page, picked).first()).toBeAttached()
    await look(plate)
  }
  await page.goto(`${site.page}/listen?cell=${picked}`)
  await expect(cell(page, picked).first()).toBeAttached()
  await page.keyboard.press('Control+k')
  await expect(page.getByRole('listbox')).toBeVisible()
  await look('palette')
  await page.goto('/')
  await expect(page.locator('html')).toHaveAttribute('lang', 'en-XA')
  await expect(page.locator(`[data-site="${site.id}"]`)).toBeVisible()
  // sites of others stand there too, and may just have come
  for (const word of wordsIn(await (await site.request.get('/api/sites')).json())) own.add(word)
  await look('sites')
  expect([...found].map(([text, place]) => `${place}: ${text}`)).toEqual([])
})
