import { area, cell, expect, openDemo, test } from './pages'

test('what is looked at stands in the address: it survives a reload, goes to a second screen, and Back goes back',
  async ({ page, context }) => {
    await openDemo(page)
    await cell(page, 'main-l/mix').click()
    await expect(page).toHaveURL(/\/listen\?cell=main-l\/mix$/)
    await area(page, 'Align')
    const view = page.getByTestId('align-plate').getByRole('button', { name: 'Pair' })
    await view.click()
    await expect(page).toHaveURL(/\/align\/pair\?cell=main-l\/mix$/)
    await page.reload()
    await expect(view).toHaveAttribute('aria-pressed', 'true')
    const other = await context.newPage()
    await other.goto(page.url().replace('align/pair', 'shape/ledger').replace('main-l/mix', 'subs/rear'))
    await expect(other.getByTestId('ledger-plate')).toBeVisible()
    await expect(other.locator('[data-cell="subs/rear"]')).toHaveAttribute('aria-pressed', 'true')
    await other.close()
    await page.goBack()
    await expect(page).toHaveURL(/\/listen\?/)
    await expect(page.getByTestId('align-plate')).toBeHidden()
    await page.goForward()
    await expect(view).toHaveAttribute('aria-pressed', 'true')
  })
