import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { area, cell, expect, openDemo, test, told, type } from './pages'

test('a device pulled away is felt and shown, keeps the draft, and is back in step when it returns', async ({
  page,
}) => {
  await openDemo(page)
  await cell(page, 'main-r/mid').click()
  await area(page, 'Shape')
  process.kill(Number(readFileSync(join(process.env.KOVRIN_DATA!, 'standins/processor.pid'), 'utf8')), 'SIGKILL')
  await expect(page.getByTestId('devices')).toContainText('System processor: lost')
  await type(page, 'Gain', '-4')
  await told(page, 'warn', 'kept as a draft')
  await expect(page.getByTestId('unsent')).toContainText('1 unsent')
  await area(page, 'Rig')
  await expect(page.locator('[data-device="processor"]')).toHaveAttribute('data-link', 'lost')
  await expect(page.getByTestId('devices')).toContainText('4 of 4 devices in step')
  await expect(page.locator('[data-device="processor"]')).toContainText('0.0 dB → −4.0 dB')
  await page.getByRole('button', { name: 'Send all' }).click()
  await expect(page.getByTestId('unsent')).toBeHidden()
  await area(page, 'Watch')
  await expect(page.getByRole('cell', { name: /System processor is lost/ })).toBeVisible()
  await area(page, 'Shape')
  await type(page, 'Gain', '0')
})
