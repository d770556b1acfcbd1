import { area, cell, expect, measure, openDemo, test, type } from './pages'

const said = (words: string | RegExp) => ({ hasText: words })

test('undo and redo reach across settings, takes and the plan, in their order, and survive a reload', async ({
  page,
  site,
}) => {
  const gain = () => site.value('processor', '/outputs/0/gain')
  const takes = async () =>
    (await site.takes())
      .filter(t => t.source === 'main-l' && t.position === 'balcony-seat')
      .map(t => `${t.name}${t.hue ?? ''}`)
  await openDemo(page)
  const before = await gain()
  await measure(page, 'main-l/balcony-seat')
  await expect(page.getByTestId('trust')).toContainText(/2\d blocks/)
  await page.getByTestId('take').click() // 1
  await expect.poll(takes).toHaveLength(1)
  const [name] = await takes()
  await page.getByLabel(`More of ${name}`).click()
  await page.getByRole('button', { name: 'Colour 4' }).click() // 2
  await expect.poll(takes).toEqual([`${name}3`])
  await area(page, 'Shape')
  await type(page, 'Gain', '-5') // 3
  await expect.poll(async () => (await gain())[0]).toBe(-5)
  await page.reload()
  await expect(page.getByTestId('devices')).toContainText('4 of 4')
  await page.locator('body').press('z')
  await expect(page.locator('[data-notice]').filter(said('Undone: System processor, output 1 gain is'))).toBeVisible()
  await expect.poll(gain).toEqual(before)
  await page.locator('body').press('z')
  await expect.poll(takes).toEqual([name])
  await page.locator('body').press('z')
  await expect(page.locator('[data-notice]').filter(said(`Undone: ${name} added to the ledger`))).toBeVisible()
  await expect.poll(takes).toEqual([])
  for (const wanted of [[name], [`${name}3`], [`${name}3`]]) {
    await page.locator('body').press('y')
    await expect.poll(takes).toEqual(wanted)
  }
  await expect.poll(async () => (await gain())[0]).toBe(-5)
  await page.locator('body').press('y')
  await expect(page.locator('[data-notice="error"]').filter(said('nothing left to redo'))).toBeVisible()
  await page.locator('body').press('z') // as it was, for whoever comes after
  await expect.poll(gain).toEqual(before)
})

test('steps of one gesture are one change, one button’s many edits go back together, and what somebody else changed '
  + 'is left alone', async ({ page, site }) => {
  const gain = async (n = 6) => (await site.value('processor', `/outputs/${n}/gain`))[0]
  const undo = async (who: string) => site.post('/undo', {}, await site.as(who))
  const edit = async (path: string, old: unknown, value: unknown, who: string, gesture?: string | null) =>
    expect((await site.edit('processor', path, old, value, gesture === undefined ? {} : { gesture }, who)).status)
      .toBe(200)
  const first = await site.draft('processor')
  const before = (await gain()) as number
  for (const [a, b] of [[before, -1], [-1, -2], [-2, -4]]) await edit('/outputs/6/gain', a, b, 'Ann', 'one drag')
  expect((await undo('Ann')).status).toBe(200)
  expect(await gain()).toBe(before)
  // one gesture of several edits
  for (const n of [6, 7]) await edit(`/outputs/${n}/gain`, await gain(n), -9, 'Ann', 'both')
  expect((await undo('Ann')).body.what).toContain('(and 1 more)')
  expect(await site.draft('processor')).toEqual(first)
  // what another has changed since stays, and the change before it can still be reached
  await edit('/outputs/6/delay', 0, 0.01, 'Ann')
  await edit('/outputs/6/gain', before, -4, 'Ann')
  await edit('/outputs/6/gain', -4, -5, 'Ben')
  const refused = await undo('Ann')
  expect(refused.status).toBe(409)
  expect(refused.body.message).toMatch(/changed again meanwhile.*once more for the change before it/)
  expect(await gain()).toBe(-5)
  expect((await undo('Ann')).status).toBe(200)
  expect(await site.value('processor', '/outputs/6/delay')).toEqual([0, 0])
  // half of a gesture stands: that half goes back, the rest is said
  for (const n of [8, 9]) await edit(`/outputs/${n}/gain`, await gain(n), -9, 'Ann', 'two more')
  await edit('/outputs/9/gain', -9, -2, 'Ben')
  expect((await undo('Ann')).body.what).toMatch(/1 .*(left|stays)/)
  expect(await gain(8)).toBe(-6)
  expect(await gain(9)).toBe(-2)
  expect((await undo('Ben')).status).toBe(200)
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await page.getByRole('button', { name: 'Commands' }).click()
  await expect(page.getByText('Undo')).toBeVisible()
})

test('takes of a cell are put in order', async ({ page }) => {
  await openDemo(page)
  await cell(page, 'foyer/balcony-seat').click()
  for (const name of ['first', 'second', 'third'])
    await page
      .locator('input[type="file"][accept*=".wav"]')
      .setInputFiles({ name: `${name}.txt`, mimeType: 'text/plain', buffer: Buffer.from('100 0\n1000 1\n10000 0') })
  const names = () => page.locator('[data-take] b').allTextContents()
  await expect.poll(async () => (await names()).length).toBe(3)
  const [a, b, c] = await names()
  await page.getByLabel(`More of ${c}`).click()
  await page.getByRole('button', { name: 'Up', exact: true }).click()
  await expect.poll(names).toEqual([a, c, b])
  await page.getByRole('button', { name: 'Up', exact: true }).click()
  await expect.poll(names).toEqual([c, a, b])
  await page.getByRole('button', { name: 'Down', exact: true }).click()
  await page.reload()
  await expect.poll(names).toEqual([a, c, b])
})
