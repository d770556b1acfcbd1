import { agree, area, cell, choose, expect, levelAt, measure, openDemo, test, told, type, way } from './pages'

test('the list of sites leads to the demo, in both themes, and nothing leaves this machine', async ({ page }) => {
  const outside: string[] = []
  page.on('request', (r) => {
    if (!/^(http:\/\/127\.0\.0\.1|data:|blob:)/.test(r.url())) outside.push(r.url())
  })
  await page.goto('/')
  await page.getByRole('link', { name: 'Ropewalk Hall', exact: true }).click()
  await expect(page.getByRole('complementary', { name: 'Ledger' })).toBeVisible()
  for (const part of ['Plate', 'Inspector', 'Path ribbon'])
    await expect(page.getByLabel(part, { exact: true })).toBeVisible()
  const paper = () => page.evaluate(() => getComputedStyle(document.body).backgroundColor)
  const night = await paper()
  await page.getByTestId('theme').click()
  expect(await paper()).not.toBe(night)
  expect(
    await page.evaluate(async () => {
      await document.fonts.ready
      return document.fonts.check('14px "Atkinson Hyperlegible Next Variable"') && crossOriginIsolated
    }),
  ).toBe(true)
  expect(outside).toEqual([])
})

test('noise starts, the arrival and its distance are found, the trace moves', async ({ page }) => {
  await openDemo(page)
  await expect(page.getByRole('region', { name: 'Plate' })).toContainText('Pick a cell')
  await measure(page, 'main-l/mix')
  // in the plan Main L stands √(12.5² + 4² + 2.8²) = 13.42 m from the desk; the cabinet's own filters add a centimetre
  await expect(page.getByTestId('distance')).toContainText(/13\.4\d m/)
  const first = await levelAt(page, 1000)
  expect(first).toBeGreaterThan(-40)
  await expect(page.getByTestId('noise-state')).toContainText('Noise')
  await page.keyboard.press('.')
  await expect(page.getByTestId('noise-state')).toContainText('Silent')
})

test('live hands: the device gets it, confirms it, and the measured trace follows', async ({ page, site }) => {
  await openDemo(page)
  await measure(page, 'main-l/mix')
  await way(page, 'High band')
  await area(page, 'Shape')
  await expect.poll(() => levelAt(page, 3000)).toBeGreaterThan(-12)
  const before = await levelAt(page, 3000)
  await type(page, 'EQ band 4 frequency', '3k')
  await type(page, 'EQ band 4 Q', '0.8')
  await type(page, 'EQ band 4 gain', '-15')
  await expect.poll(async () => before - (await levelAt(page, 3000))).toBeGreaterThan(12)
  await expect(page.getByTestId('unsent')).toBeHidden()
  await expect.poll(async () => (await site.held('processor'))['/outputs/1/eq/3']).toEqual({
    on: true,
    type: 'peaking',
    frequency: 3000,
    gain: -15,
    q: 0.8,
  })
  await type(page, 'EQ band 4 gain', '0')
  await agree(page)
  await expect.poll(async () => before - (await levelAt(page, 3000))).toBeLessThan(2)
  // the whole set of the issue on one output: families, slopes, delay with a distance, polarity, mute
  await choose(page, 'High-pass family and slope', 'Linkwitz–Riley 48 dB/oct')
  await type(page, 'Delay', '3.439 m')
  await expect(page.getByLabel('Delay', { exact: true })).toHaveValue('10.00 ms')
  await type(page, 'Delay', '0')
  await choose(page, 'High-pass family and slope', 'Linkwitz–Riley 24 dB/oct')
  await agree(page) // the horn gets more below what it plays
  await page.getByLabel('Mute').check()
  await expect(page.getByTestId('path-finding')).toContainText('muted')
  await page.getByLabel('Mute').uncheck()
  await page.locator('[data-block="processor-inputs-0"]').click() // before the two bands part
  await choose(page, 'Polarity', 'inverted')
  await expect(page.getByTestId('arrival')).toContainText(/polarity inverted/)
  await choose(page, 'Polarity', 'normal')
  await area(page, 'Watch')
  await expect(page.getByRole('cell', { name: 'confirmed by the device' }).first()).toBeVisible()
})

test('draft: nothing is sent until Send, the prediction stands beside the trace, both values are shown', async ({
  page,
  site,
}) => {
  await openDemo(page)
  await measure(page, 'main-l/mix')
  await area(page, 'Shape')
  await page.getByRole('radio', { name: 'Draft' }).click()
  await type(page, 'Gain', '-6')
  await expect(page.getByTestId('unsent')).toContainText('1 unsent')
  await expect(page.getByRole('complementary', { name: 'Inspector' })).toContainText('in device 0.0 dB')
  await expect.poll(() => site.value('processor', '/outputs/0/gain')).toEqual([-6, 0])
  await page.getByRole('button', { name: 'Send', exact: true }).click()
  await expect(page.getByTestId('unsent')).toBeHidden()
  await expect.poll(() => site.value('processor', '/outputs/0/gain')).toEqual([-6, -6])
  await type(page, 'Gain', '-20')
  await expect(page.getByTestId('unsent')).toBeVisible()
  await page.getByRole('button', { name: 'Discard' }).click()
  await expect(page.getByLabel('Gain', { exact: true })).toHaveValue('−6.0 dB')
})

test('what others wrote is neither sent nor dropped with one’s own, unless that is meant', async ({ page, site }) => {
  const gains = () => Promise.all([0, 1].map(async n => (await site.value('processor', `/outputs/${n}/gain`))[1]))
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await page.getByRole('radio', { name: 'Draft' }).click()
  await type(page, 'Gain', '-6')
  expect((await site.edit('processor', '/outputs/1/gain', 0, -3)).status).toBe(200)
  const unsent = page.getByTestId('unsent')
  await expect(unsent).toContainText(/2 unsent,\s*1 by Somebody/)
  await unsent.getByRole('button', { name: 'Send', exact: true }).click()
  await expect.poll(gains).toEqual([-6, 0])
  await expect(unsent).toContainText(/1 unsent,\s*1 by Somebody/)
  await expect(unsent.getByRole('button', { name: 'Discard' })).toBeHidden()
  await unsent.getByRole('button', { name: 'Send all' }).click()
  await expect(page.getByTestId('question')).toContainText('1 of 1 unsent edits was written by Somebody')
  await page.getByRole('button', { name: 'Cancel' }).click()
  expect(await gains()).toEqual([-6, 0])
  await unsent.getByRole('button', { name: 'Send all' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Send all' }).click()
  await expect.poll(gains).toEqual([-6, -3])
  await expect(unsent).toBeHidden()
})

test('a delay that is set here is turned in the average; another setting begins it anew', async ({ page }) => {
  const blocks = async () => Number(/(\d+) blocks?/.exec((await page.getByTestId('trust').textContent())!)![1])
  await openDemo(page)
  await measure(page, 'main-l/mix')
  await choose(page, 'Averaging', 'all since the restart')
  await expect.poll(blocks).toBeGreaterThan(25)
  const first = Number(/([\d.]+)/.exec((await page.getByTestId('arrival').textContent())!)![1])
  await area(page, 'Shape')
  await page.locator('[data-block="processor-inputs-0"]').click()
  await type(page, 'Delay', '2 ms')
  await expect(page.getByTestId('arrival')).toContainText(`${(first + 2).toFixed(1)}`)
  expect(await blocks()).toBeGreaterThan(25)
  await type(page, 'Gain', '-3')
  await expect.poll(blocks).toBeLessThan(25)
})

test('take: the cell fills, survives a reload, goes stale with a setting on its path, and its '
  + 'prediction follows', async ({
  page,
}) => {
  await openDemo(page)
  await measure(page, 'main-l/mid')
  await expect(page.getByTestId('trust')).toContainText(/1\d blocks|2\d blocks/)
  await page.getByTestId('take').click()
  await expect(cell(page, 'main-l/mid')).toHaveAttribute('data-state', 'fresh')
  await page.reload()
  await openDemo(page)
  await expect(cell(page, 'main-l/mid')).toHaveAttribute('data-state', 'fresh')
  await expect.poll(() => levelAt(page, 2000)).toBeGreaterThan(-40) // drawn as an overlay without any sound
  await area(page, 'Shape')
  await type(page, 'EQ band 5 gain', '-9')
  await expect(cell(page, 'main-l/mid')).toHaveAttribute('data-state', 'stale')
  await expect(page.getByRole('complementary', { name: 'Ledger' })).toContainText(
    'System processor: Output 1 EQ band 5 off → peaking 2 kHz −9.0 dB',
  )
  await type(page, 'EQ band 5 gain', '0')
  await agree(page)
  await page.getByLabel('EQ band 5 on').uncheck()
  await expect(cell(page, 'main-l/mid')).toHaveAttribute('data-state', 'fresh')
  await area(page, 'Listen')
  await expect(page.getByTestId('noise-state')).toContainText('Silent')
})

test('another source is fed by one button, and only it sounds', async ({ page, site }) => {
  await openDemo(page)
  await measure(page, 'main-l/mix')
  await expect(page.getByTestId('distance')).toBeVisible()
  await cell(page, 'subs/mix').click()
  await expect(page.getByTestId('path-finding')).toContainText('Silent: Matrix 1 → 5 not connected')
  // what is heard there is not its own
  await expect(page.getByTestId('arrival')).toContainText('arrival of others: Subs is silent')
  await expect(page.getByTestId('distance')).toBeHidden()
  await expect(page.getByTestId('first-steps').locator('[aria-current]')).toContainText('Subs gets no signal')
  await page.getByTestId('take').click()
  await told(page, 'warn', 'Subs is silent: what is heard is Main L. Nothing was kept.')
  expect(await site.takes()).toEqual([])
  await page.getByRole('button', { name: 'Keep anyway' }).click()
  await expect.poll(async () => (await site.takes()).map(t => t.source)).toEqual(['subs'])
  await page.getByRole('button', { name: 'Feed only this' }).click()
  await expect(page.getByTestId('path-finding')).toBeHidden()
  await expect.poll(async () => (await levelAt(page, 80)) - (await levelAt(page, 1000))).toBeGreaterThan(15)
  await cell(page, 'main-l/mix').click()
  await expect(page.getByTestId('path-finding')).toContainText('Silent')
  await page.getByRole('button', { name: 'Feed only this' }).click()
  await expect(page.getByTestId('path-finding')).toBeHidden()
})

test('everything frequent works from the keyboard', async ({ page }) => {
  await openDemo(page)
  await page.keyboard.press('Control+k')
  await page.getByLabel('Find a command').fill('main l row')
  await page.keyboard.press('Enter')
  await expect(cell(page, 'main-l/row-1')).toHaveAttribute('aria-pressed', 'true')
  await expect(page.getByRole('dialog')).toBeHidden()
  await page.keyboard.press('n')
  await expect(page.getByTestId('arrival')).toBeVisible()
  await page.keyboard.press('4')
  await expect(page.getByTestId('shape-inspector')).toBeVisible()
  await page.keyboard.press('.')
  await expect(page.getByTestId('noise-state')).toContainText('Silent')
  await cell(page, 'main-l/row-1').focus()
  await page.keyboard.press('ArrowLeft')
  await page.keyboard.press('Enter')
  await expect(cell(page, 'main-l/mix')).toHaveAttribute('aria-pressed', 'true')
})

test('a site that does not exist says so and leads back', async ({ page }) => {
  await page.goto('/sites/nowhere')
  await expect(page.getByRole('heading', { name: 'This site does not exist' })).toBeVisible()
  await page.getByRole('link', { name: 'See all sites' }).click()
  await expect(page.getByRole('link', { name: 'Ropewalk Hall', exact: true })).toBeVisible()
})

test('typing nonsense into a field is answered beside it, and the value stays', async ({ page }) => {
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await type(page, 'Delay', 'soon')
  await expect(page.getByRole('alert')).toContainText('“soon” is not understood')
  await page.keyboard.press('Escape')
  await expect(page.getByLabel('Delay', { exact: true })).toHaveValue('0.00 ms')
  await type(page, 'Delay', '9 s')
  await told(page, 'error', '0.00 ms to 100.00 ms is allowed')
  await expect(page.getByLabel('Delay', { exact: true })).toHaveValue('0.00 ms')
})
