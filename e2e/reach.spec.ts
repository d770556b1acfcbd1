import { contentOf, type Documents, type Position, type SiteFile, type Source } from '../core/documents'
import { driveKey } from '../core/rig'
import { cell, expect, measure, openDemo, test, told } from './pages'

test('a source arrives with another in two actions: all its outputs are delayed alike, nothing else is', async ({
  page, site,
}) => {
  await openDemo(page)
  await page.getByRole('button', { name: 'Feed only this' }).waitFor({ state: 'hidden' })
  await measure(page, 'main-l/mid')
  await page.getByTestId('take').click()
  await expect(cell(page, 'main-l/mid')).toHaveAttribute('data-state', 'fresh')
  await cell(page, 'main-r/mid').click()
  await page.getByRole('button', { name: 'Feed only this' }).click()
  await expect(page.getByTestId('path-finding')).toHaveCount(0)
  await expect(page.getByTestId('arrival')).toBeVisible()
  await page.getByRole('button', { name: 'Align with …' }).click() // 1
  const offer = page.getByRole('menuitem', { name: /^Main L: delay Main [LR] by [\d.]+ (ms|µs)$/ })
  const [, which] = /delay (Main [LR]) by/.exec((await offer.textContent())!)!
  await offer.click() // 2
  await told(page, 'info', `${which} is delayed by`)
  const ways = which === 'Main L' ? [0, 1] : [2, 3]
  for (const n of ways) {
    await expect.poll(async () => Number((await site.value('processor', `/outputs/${n}/delay`))[1])).toBeGreaterThan(0)
  }
  await expect.poll(async () => {
    const [first, second] = await Promise.all(ways.map(n => site.value('processor', `/outputs/${n}/delay`)))
    return JSON.stringify(first) === JSON.stringify(second)
  }).toBe(true)
  for (const n of [0, 1, 2, 3].filter(n => !ways.includes(n)))
    expect((await site.value('processor', `/outputs/${n}/delay`))[1]).toBe(0)
})

test('the ribbon is looked along what the console sends: what reaches a source, what does not', async ({ page }) => {
  await openDemo(page)
  await cell(page, 'main-l/mid').click()
  const ribbon = page.locator('.ribbon')
  await expect(ribbon.locator('[data-block="feed"]')).toContainText('Kovrin’s noise')
  const lookAlong = async (name: string) => {
    await page.getByRole('button', { name: 'Look along another feed' }).click()
    await page.getByRole('group', { name: 'Feed traced' }).getByRole('button', { name }).click()
    await page.keyboard.press('Escape')
  }
  await lookAlong('Console left')
  await expect(ribbon.locator('[data-block="feed"]')).toContainText('Console lefttraced at 0 dBFS')
  await expect(page.getByTestId('path-finding')).toBeHidden()
  await expect(ribbon.locator('[data-block="source"]')).toContainText(/dB/)
  // the console’s fill reaches no front fill, and Kovrin’s own signal is not offered for it
  await cell(page, 'front-fill/mid').click()
  await lookAlong('Console fill')
  await expect(page.getByTestId('path-finding')).toContainText(/Silent: Matrix \d → \d+ not connected/)
  await expect(page.getByRole('button', { name: 'Feed only this' })).toBeHidden()
  await lookAlong('Kovrin’s signal')
  await expect(page.getByRole('button', { name: 'Feed only this' })).toBeVisible()
})

test('what can be done with a cell or a take is there by the second button, the menu key and a long press',
  async ({ page }) => {
    await openDemo(page)
    await cell(page, 'main-l/mid').click({ button: 'right' })
    await page.getByRole('menuitem', { name: 'Measure it' }).click()
    await expect(cell(page, 'main-l/mid')).toHaveAttribute('aria-pressed', 'true')
    await expect(page.getByTestId('arrival')).toBeVisible()
    await page.getByTestId('take').click()
    const take = page.locator('[data-take]')
    await expect(take).toBeVisible()
    await take.getByRole('checkbox').first().focus()
    await take.locator('b').click({ button: 'right' })
    await page.getByRole('menuitem', { name: 'Hide it' }).click()
    await expect(take.getByRole('checkbox').first()).not.toBeChecked()
    // a finger that rests on a cell
    const finger = { pointerType: 'touch', isPrimary: true, pointerId: 7, button: 0 }
    await cell(page, 'main-r/mid').dispatchEvent('pointerdown', finger)
    await expect(page.getByRole('menuitem', { name: 'Overlay on charts' })).toBeVisible()
    await cell(page, 'main-r/mid').dispatchEvent('pointerup', finger)
    await cell(page, 'main-r/mid').dispatchEvent('click')
    await expect(cell(page, 'main-r/mid')).toHaveAttribute('aria-pressed', 'false')
    await page.keyboard.press('Escape')
    await expect(page.getByRole('menuitem')).toHaveCount(0)
    await expect(cell(page, 'main-r/mid')).toBeFocused()
  })

/** A hall of so many sources and positions: the demo's first of each, many times. */
function crowded(documents: Documents, sources: number, positions: number): Documents {
  const next: Record<string, unknown> = { ...documents }
  const source = contentOf(documents, 'source', 'main-l')!
  const position = contentOf(documents, 'position', 'mix')!
  const wiring = structuredClone(contentOf(documents, 'wiring')!)
  for (let n = 0; n < sources; n++) {
    const id = `many-${n}`
    next[`source/${id}`] = { ...source, id, name: `Ring loudspeaker ${n + 1}`, order: 20 + n } satisfies Source
    source.elements.forEach((_, element) => {
      wiring.drives[driveKey({ source: id, element, band: 'low' })] = { device: 'processor', channel: 12 }
    })
  }
  for (let n = 0; n < positions; n++) {
    const id = `seat-${n}`
    const place = { ...position.place, x: 6 + n * 0.9 }
    next[`position/${id}`] = { ...position, id, name: `Balcony row ${n + 1}`, order: 20 + n, place } satisfies Position
  }
  return { ...next, wiring }
}

test('sixteen sources by twenty-four positions stay in their column, and have the plate when asked', async ({
  page, request,
}) => {
  const demo = (await (await request.get('/api/sites/ropewalk-hall/file')).json()) as SiteFile
  // without the devices' links: nothing sounds here
  const documents = crowded(demo.documents, 9, 19)
  const made = await request.post('/api/sites', { data: { from: 'file', file: { ...demo, documents } } })
  expect(made.status(), await made.text()).toBe(201)
  await page.goto(`/sites/${(await made.json()).id}`)
  const grid = page.getByRole('grid')
  await expect.poll(() => grid.getByRole('columnheader').count()).toBeGreaterThanOrEqual(25)
  expect(await grid.getByRole('rowheader').count()).toBeGreaterThanOrEqual(16)
  const [column, box] = await Promise.all([page.locator('.ledger').boundingBox(), grid.boundingBox()])
  expect(box!.x + box!.width).toBeLessThanOrEqual(column!.x + column!.width)
  await cell(page, 'main-l/mix').click()
  await page.keyboard.press('End')
  await expect(cell(page, 'main-l/seat-18')).toBeFocused()
  await expect(cell(page, 'main-l/seat-18')).toBeInViewport({ ratio: 1 })
  await expect(grid.getByRole('rowheader', { name: 'Main L' })).toBeInViewport()
  await page.getByRole('button', { name: 'Large' }).click()
  await expect(page.getByRole('grid')).toHaveCount(1)
  const plate = (await page.locator('.plate').boundingBox())!
  const whole = (await grid.boundingBox())!
  expect(whole.x).toBeGreaterThanOrEqual(plate.x)
  expect(whole.x + whole.width).toBeLessThanOrEqual(plate.x + plate.width)
  await cell(page, 'many-8/seat-18').click()
  await expect(cell(page, 'many-8/seat-18')).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press('g')
  await expect(page.locator('[data-chart]').first()).toBeVisible()
})

test('the path has the level in the unit of each place', async ({ page }) => {
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  const level = (key: string) => page.locator(`[data-block="${key}"] .level`)
  await expect(level('processor-inputs-0')).toHaveText('−20.0 dBFS')
  await expect(level('processor-outputs-0')).toHaveText('−2.0 dBu')
  // −20 dBFS of 89 V
  await expect(level('amp-a-outputs-0')).toHaveText('8.90 V')
  // 97 dB for 2.83 V
  await expect(level('source')).toHaveText('107.0 dB SPL')
})

test('the list of sites says what is open', async ({ page, site }) => {
  await site.edit('processor', '/outputs/0/gain', 0, -3)
  await page.goto('/')
  await expect(page.locator(`[data-site="${site.id}"]`)).toContainText('Open: 1 unsent edit')
})
