import { agree, area, cell, expect, measure, openDemo, test, type, way } from './pages'

const sizes = [[1280, 800], [1024, 768], [820, 1180], [640, 900]] as const

test('what is done most is in reach in every area and on every screen, without scrolling', async ({ page }) => {
  await openDemo(page)
  for (const [width, height] of sizes) {
    await page.setViewportSize({ width, height })
    for (const name of ['Site', 'Rig', 'Listen', 'Shape', 'Watch']) {
      await area(page, name)
      for (const id of ['noise', 'take', 'sweep-one']) await expect(page.getByTestId(id)).toBeInViewport({ ratio: 1 })
      await expect(page.getByRole('button', { name: 'Hush' })).toBeInViewport({ ratio: 1 })
    }
    const sideways = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth)
    expect(sideways, `${width} wide`).toBeLessThanOrEqual(0)
  }
})

test('from opening a site to a kept take it is three actions, and two more to the next cell’s', async ({ page }) => {
  await openDemo(page)
  await cell(page, 'main-l/mix').click() // 1
  await expect(page.getByTestId('take')).toBeDisabled()
  await page.getByTestId('noise').click() // 2
  await expect(page.getByTestId('arrival')).toBeVisible()
  await page.getByTestId('take').click() // 3
  await expect(cell(page, 'main-l/mix')).toHaveAttribute('data-state', 'fresh')
  await cell(page, 'main-l/mid').click() // 1
  await expect(page.getByTestId('arrival')).toBeVisible()
  await page.getByTestId('take').click() // 2
  await expect(cell(page, 'main-l/mid')).toHaveAttribute('data-state', 'fresh')
})

test('Live ask once before a step that all would hear; a draft does not', async ({ page, site }) => {
  const held = async () => (await site.value('processor', '/outputs/1/gain'))[1]
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await way(page, 'High band')
  await area(page, 'Shape')
  await type(page, 'Gain', '-20')
  await expect.poll(held).toBe(-20)
  await type(page, 'Gain', '-15') // a small step asks nothing
  await expect.poll(held).toBe(-15)
  await type(page, 'Gain', '0')
  await expect(page.getByTestId('rises')).toContainText(/Main L, high band: louder by \+(15|20)\.0 dB/)
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('question')).toBeHidden()
  await expect(page.getByLabel('Gain', { exact: true })).toHaveValue('−15.0 dB')
  await expect(page.getByLabel('Gain', { exact: true })).toBeFocused()
  expect(await held()).toBe(-15)
  await type(page, 'Gain', '0')
  await agree(page)
  await expect.poll(held).toBe(0)
  await page.getByRole('radio', { name: 'Draft' }).click()
  await type(page, 'Gain', '-20')
  await type(page, 'Gain', '-1')
  await expect(page.getByTestId('unsent')).toContainText('1 unsent')
  await expect(page.getByTestId('question')).toBeHidden()
})

test('the rail says what sounds: noise, the console’s music, or nothing', async ({ page }) => {
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  const state = page.getByTestId('noise-state')
  await expect(state).toContainText('Silent')
  await page.getByTestId('noise').click()
  await expect(state).toContainText('Noise −20 dBFS')
  await page.getByLabel('The console plays music into the rig').check()
  await page.getByTestId('noise').click()
  await expect(state).toContainText('Console music')
  await page.getByRole('button', { name: 'Hush' }).click()
  await expect(state).toContainText('Silent')
})

test('the theme is the system’s until one is chosen', async ({ page }) => {
  const theme = () => page.locator('html').getAttribute('data-theme')
  await page.emulateMedia({ colorScheme: 'light' })
  await openDemo(page)
  expect(await theme()).toBe('day')
  await page.emulateMedia({ colorScheme: 'dark' })
  await expect.poll(theme).toBe('night')
  await page.getByTestId('theme').click()
  await page.reload()
  await expect(page.getByTestId('devices')).toBeVisible()
  expect(await theme()).toBe('day')
})

test('a site is renamed where it stands', async ({ page, site }) => {
  await page.goto('/')
  const row = page.locator(`[data-site="${site.id}"]`)
  await row.getByRole('button', { name: 'Rename' }).click()
  await page.getByLabel('New name of the site').fill('Ropewalk Hall, spring')
  await page.keyboard.press('Enter')
  await expect(row.getByRole('link', { name: 'Ropewalk Hall, spring' })).toBeVisible()
  await row.getByRole('button', { name: 'Rename' }).click()
  await page.getByLabel('New name of the site').fill('  ')
  await page.keyboard.press('Enter')
  await expect(row.getByRole('link', { name: 'Ropewalk Hall, spring' })).toBeVisible()
})

test('the code of a page that measures is at most 450 kB, as it is sent', async ({ page }) => {
  await openDemo(page)
  await measure(page, 'main-l/mix')
  const sent = await page.evaluate(() =>
    (performance.getEntriesByType('resource') as PerformanceResourceTiming[])
      .filter(r => /\.(js|css)$/.test(new URL(r.name).pathname))
      .map(r => ({ name: r.name.split('/').at(-1)!, size: r.encodedBodySize })))
  // what was fetched ahead is named twice
  const all = [...new Map(sent.map(r => [r.name, r.size])).values()].reduce((sum, size) => sum + size, 0)
  expect(sent.some(r => r.name.startsWith('analysis.worker') && r.size > 0)).toBe(true)
  expect(all, JSON.stringify(sent)).toBeGreaterThan(200_000)
  expect(all, JSON.stringify(sent)).toBeLessThan(450_000)
})
