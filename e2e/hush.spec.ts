import { cell, expect, measure, openDemo, test } from './pages'

test('Hush on any page silences the test signals of every page of the site', async ({ page, browser, site }) => {
  await openDemo(page)
  await measure(page, 'main-l/mix')
  await expect(page.getByTestId('noise-state')).toContainText('Noise')
  const elsewhere = await browser.newContext()
  const other = await elsewhere.newPage()
  await other.goto(`${process.env.KOVRIN_URL!}${site.page}`)
  await expect(other.getByTestId('devices')).toContainText('4 of 4')
  await other.getByRole('button', { name: 'Hush' }).click()
  await expect(page.getByTestId('noise-state')).toContainText('Quiet')
  await elsewhere.close()
})

test('the platform’s keys undo and redo', async ({ page, site }) => {
  const gain = async () => (await site.value('processor', '/outputs/0/gain'))[0]
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await site.edit('processor', '/outputs/0/gain', 0, -3)
  await page.getByRole('button', { name: 'Shape' }).or(page.getByRole('link', { name: 'Shape' })).first().click()
  const field = page.getByLabel('Gain', { exact: true })
  await field.fill('-5')
  await field.press('Enter')
  await expect.poll(gain).toBe(-5)
  await page.locator('body').press('Control+z')
  await expect.poll(gain).toBe(-3)
  await page.locator('body').press('Control+Shift+z')
  await expect.poll(gain).toBe(-5)
  await page.locator('body').press('Control+z')
  await expect.poll(gain).toBe(-3)
  await page.locator('body').press('Control+y')
  await expect.poll(gain).toBe(-5)
})
