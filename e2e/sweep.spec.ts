import { readFileSync } from 'node:fs'
import { allOf, contentOf, valueIn } from '../core/documents'
import { addMicrophone, area, cell, choose, expect, openDemo, test, type, type Site } from './pages'

/** What every device holds, mutes and connections included. */
const heldBy = async (site: Site) => Promise.all(['processor', 'amp-a', 'amp-b', 'amp-c'].map(d => site.held(d)))
const mutesIn = (held: Record<string, unknown>[]) =>
  held.flatMap(h => Object.entries(h)).filter(([path, value]) => path.endsWith('/mute') && value === true).length

test('one sweep at a cell: level check, progress, response, noise and distortion as one take', async ({ page }) => {
  await openDemo(page)
  await addMicrophone(page, 2, 'Row 1')
  await cell(page, 'main-r/mid').click()
  await type(page, 'Length', '1')
  await page.getByTestId('sweep-one').click()
  await expect(page.locator('[data-notice="error"]')).toContainText(
    'Main R gets no signal: the sweep would record another loudspeaker',
  )
  await page.getByRole('button', { name: 'Feed only this' }).click()
  await expect(page.getByTestId('path-finding')).toBeHidden()
  // it is said for as long as it takes only: looked for at every picture
  const checks = page.waitForFunction(() =>
    document.querySelector('[data-testid="sweep"]')?.textContent.includes('check the level'))
  await page.getByTestId('sweep-one').click()
  await checks
  await expect(cell(page, 'main-r/mid')).toHaveAttribute('data-state', 'fresh', { timeout: 40_000 })
  // heard by the second microphone at once
  await expect(cell(page, 'main-r/row-1')).toHaveAttribute('data-state', 'fresh')
  await expect(page.getByTestId('sweep-result')).toContainText(/arrival \d+\.\d\d ms, \d+ dB over the noise/)
  await expect(page.locator('[data-take]').first()).toContainText('sweep, Simulated interface')
  await choose(page, 'Chart 2', 'Decay times and clarity')
  // a sweep reaches far enough over the noise for T20
  await expect(page.getByTestId('decay-times')).toContainText(/1 kHz\s*\d\.\d\d\s*\d\.\d\d/)
  await choose(page, 'Chart 3', 'Distortion by harmonic')
  await expect(page.locator('[data-chart="Distortion by harmonic"] canvas')).toBeVisible()
})

test('sweep all: each source alone, stoppable, resumed where it was, and every mute put back', async ({
  page,
  site,
}) => {
  const held = () => heldBy(site)
  await openDemo(page)
  const before = await held()
  const muted = mutesIn(before)
  await type(page, 'Length', '0.5')
  const left = async () => Number(/(\d+) cell/.exec((await page.getByTestId('sweep-all').textContent()) ?? '')?.[1])
  const all = await left()
  await page.getByTestId('sweep-all').click()
  await expect(page.getByTestId('sweep')).toContainText(/3 of \d+/, { timeout: 60_000 })
  expect(mutesIn(await held())).toBeGreaterThan(muted)
  await page.getByRole('button', { name: 'Stop sweep' }).click()
  await expect(page.getByTestId('sweep-all')).toBeVisible()
  await expect.poll(held).toEqual(before)
  expect(await left()).toBeLessThan(all) // what was swept needs no second time
  await page.getByTestId('sweep-all').click()
  await expect(page.getByTestId('sweep')).toContainText(/1 of \d+/)
  await page.keyboard.press('.') // Hush ends it too
  await expect.poll(held).toEqual(before)
})

test('sweep all feeds each source in its turn: loudspeakers that were not connected are swept too, at every '
  + 'microphone, and nothing stays connected', async ({
  page,
  site,
}) => {
  const held = () => heldBy(site)
  const swept = async () => (await site.takes())
    .filter(t => !['main-l', 'main-r'].includes(t.source) && t.info.method === 'sweep').length
  await openDemo(page)
  await addMicrophone(page, 2, 'Rear')
  await type(page, 'Length', '0.5')
  const before = await held()
  const kept = await swept()
  await page.getByTestId('sweep-all').click()
  await expect.poll(swept, { timeout: 180_000 }).toBeGreaterThan(kept + 1)
  await page.getByRole('button', { name: 'Stop sweep' }).click()
  await expect(page.getByTestId('sweep-all')).toBeVisible()
  await expect.poll(held).toEqual(before)
})

test('mutes of a round are marked as such on every page, and put back even when its page is closed', async ({
  page, browser, site,
}) => {
  await openDemo(page)
  const other = await (await browser.newContext()).newPage()
  await other.goto(`${process.env.KOVRIN_URL!}${site.page}`)
  await cell(other, 'main-l/mix').click()
  const before = await heldBy(site)
  await page.getByTestId('sweep-all').click()
  await expect.poll(async () => mutesIn(await heldBy(site))).toBeGreaterThan(mutesIn(before))
  // the round comes to other sources in its turn: until then this one may sound
  await expect(other.getByTestId('path-finding'))
    .toContainText(/Silent for now: .* \(Sweep all, /, { timeout: 120_000 })
  await page.goto('/')
  await expect.poll(() => heldBy(site)).toEqual(before)
  await expect(other.getByTestId('path-finding').filter({ hasText: 'for now' })).toHaveCount(0)
  await other.context().close()
})

test('each output of a source is recorded alone, and an edit of one of them is foreseen', async ({ page, site }) => {
  const documents = await site.documents()
  const others = allOf(documents, 'source').filter(s => s.id !== 'main-l')
  const places = allOf(documents, 'position').filter(p => p.id !== 'mid')
  const gone = [
    ...Object.keys(contentOf(documents, 'wiring')!.drives).filter(key => !key.startsWith('main-l:'))
      .map(key => ({ document: 'wiring', path: `/drives/${key}` })),
    ...others.map(s => ({ document: `source/${s.id}`, path: '' })),
    ...places.map(p => ({ document: `position/${p.id}`, path: '' })),
  ].map(e => ({ ...e, old: valueIn(documents, e.document, e.path) }))
  expect(await site.post('/changes', { edits: gone })).toMatchObject({ status: 200 })
  await openDemo(page)
  await type(page, 'Length', '0.5')
  await page.getByLabel('each output alone too').check()
  await page.getByTestId('sweep-all').click()
  await expect.poll(async () => (await site.takes()).map(t => t.only?.channel ?? -1), { timeout: 60_000 })
    .toEqual([-1, 0, 1])
  await expect(page.getByTestId('sweep-all')).toBeVisible()
  await cell(page, 'main-l/mid').click()
  const sums = page.locator('[data-take]').filter({ hasNotText: 'only Amplifier A' })
  await area(page, 'Shape')
  await page.getByRole('radio', { name: 'Draft' }).click()
  await type(page, 'Delay', '0.4 ms')
  // names stand in the drawing: it is read as the file that it can be saved as
  await page.getByRole('button', { name: 'Settings of Magnitude' }).click()
  await expect(async () => {
    const [svg] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'SVG' }).click()])
    expect(readFileSync(await svg.path(), 'utf8')).toMatch(/Mid house, \d\d:\d\d[^<]* predicted/)
  }).toPass()
  await expect(sums).not.toContainText('leaves out')
})
