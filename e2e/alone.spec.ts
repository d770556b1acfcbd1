import { spawnSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { area, cell, expect, openDemo, test, told, type } from './pages'

// one after the other: each pulls away what the next one needs
test.describe.configure({ mode: 'default' })

test('a device pulled away is felt and shown, keeps the draft, and is back in step when it returns', async ({
  page,
}) => {
  await openDemo(page)
  await cell(page, 'main-r/mid').click()
  await area(page, 'Shape')
  process.kill(Number(readFileSync(join(process.env.KOVRIN_DATA!, 'standins/processor.pid'), 'utf8')), 'SIGKILL')
  await expect(page.getByTestId('devices')).toContainText('System processor: offline')
  await type(page, 'Gain', '-4')
  await told(page, 'warn', 'kept as a draft')
  await expect(page.getByTestId('unsent')).toContainText('1 unsent')
  await area(page, 'Rig')
  await expect(page.locator('[data-device="processor"]')).toHaveAttribute('data-link', 'lost')
  await expect(page.getByTestId('devices')).toContainText('4 of 4 devices in sync')
  await expect(page.locator('[data-device="processor"]')).toContainText('0.0 dB → −4.0 dB')
  await page.getByRole('button', { name: 'Send all' }).click()
  await expect(page.getByTestId('unsent')).toBeHidden()
  await area(page, 'Watch')
  await expect(page.getByRole('cell', { name: /System processor is offline/ })).toBeVisible()
  await area(page, 'Shape')
  await type(page, 'Gain', '0')
})

test('a server that is killed is back by itself: the page follows without a reload, and nothing typed is lost', async ({
  page,
  site,
}) => {
  await openDemo(page)
  await cell(page, 'main-r/mid').click()
  await area(page, 'Shape')
  await type(page, 'Gain', '-2')
  const output = '/outputs/2/gain'
  await expect.poll(() => site.value('processor', output)).toEqual([-2, -2])
  const loaded = await page.evaluate(() => performance.timeOrigin)
  const servers = spawnSync('pgrep', ['-f', 'output/server/index.mjs'], { encoding: 'utf8' }).stdout.trim().split('\n')
  const ours = servers.find(pid =>
    readFileSync(`/proc/${pid}/environ`, 'utf8').includes(`KOVRIN_DATA=${process.env.KOVRIN_DATA}\0`))
  process.kill(Number(ours), 'SIGKILL')
  await expect(page.getByTestId('devices')).toContainText('4 of 4 devices in sync')
  await expect(async () => {
    // what is typed before the devices are in step again is kept as a draft: another value is a new edit
    await type(page, 'Gain', '-4')
    await type(page, 'Gain', '-3')
    expect(await site.value('processor', output)).toEqual([-3, -3])
  }).toPass()
  expect(await page.evaluate(() => performance.timeOrigin)).toBe(loaded)
  await type(page, 'Gain', '0')
})
