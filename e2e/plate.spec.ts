import { readFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { cell, choice, choose, expect, measure, openDemo, test } from './pages'

const chart = (page: Page, name: string) => page.locator(`[data-chart="${name}"]`)
/** Where a chart's drawing lies on the page. */
async function plot(page: Page, name: string) {
  const box = (await chart(page, name).boundingBox())!
  const [left, right] = (await chart(page, name).getAttribute('data-plot'))!.split(' ').map(Number) as [number, number]
  return { left: box.x + left, right: box.x + right, top: box.y, bottom: box.y + box.height, width: right - left }
}
const range = async (page: Page) => {
  const settings = page.getByRole('group', { name: 'Chart settings' })
  await page.getByRole('button', { name: 'Settings of Magnitude' }).click()
  const ends = await Promise.all(['From', 'To'].map(l => settings.getByLabel(l, { exact: true }).inputValue()))
  await page.keyboard.press('Escape')
  await expect(settings).toBeHidden()
  return ends
}

test('captions stand over the drawing; names have only the room that they need', async ({ page }) => {
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await expect(chart(page, 'Magnitude')).toHaveAttribute('data-plot', /\d/)
  const caption = (await page.getByText('dB, microphone over reference').boundingBox())!
  const empty = await plot(page, 'Magnitude')
  expect(caption.y + caption.height).toBeLessThanOrEqual(empty.top)
  const area = (await chart(page, 'Magnitude').boundingBox())!
  expect(area.x + area.width - empty.right).toBeLessThan(25)
  await page.getByTestId('noise').click()
  await expect(page.getByTestId('arrival')).toBeVisible()
  await expect.poll(async () => (await plot(page, 'Magnitude')).right).toBeLessThan(empty.right - 40)
  // frequencies stand under each other
  const [a, b] = [await plot(page, 'Magnitude'), await plot(page, 'Phase')]
  expect([b.left, b.right]).toEqual([a.left, a.right])
})

test('a chart is zoomed by wheel and drag and comes back, has the plate to itself, and can be pulled taller', async ({
  page,
}) => {
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await expect(chart(page, 'Magnitude')).toHaveAttribute('data-plot', /\d/)
  const p = await plot(page, 'Magnitude')
  // drag from 200 Hz to 2 kHz
  const at = (f: number) => p.left + (p.width * Math.log(f / 18)) / Math.log(20_500 / 18)
  await page.mouse.move(at(200), p.top + 60)
  await page.mouse.down()
  await page.mouse.move(at(2000), p.top + 60, { steps: 5 })
  await page.mouse.up()
  const [low, high] = await range(page)
  expect(low).toMatch(/^(19\d|20\d)(\.\d+)? Hz$/)
  expect(high).toMatch(/^(1\.9|2)\d*\.?\d* kHz$/)
  await page.getByRole('button', { name: 'whole range' }).first().click()
  expect(await range(page)).toEqual(['18 Hz', '20.5 kHz'])
  await page.mouse.move(at(1000), p.top + 60)
  await page.mouse.wheel(0, -100)
  await expect(page.getByRole('button', { name: 'whole range' }).first()).toBeVisible()
  await page.mouse.wheel(0, 100)
  await page.mouse.wheel(0, 100)
  await expect(page.getByRole('button', { name: 'whole range' })).toHaveCount(0)
  const before = await chart(page, 'Coherence').boundingBox()
  const gutter = (await page.getByRole('separator').last().boundingBox())!
  await page.mouse.move(gutter.x + 50, gutter.y + 2)
  await page.mouse.down()
  await page.mouse.move(gutter.x + 50, gutter.y - 58, { steps: 6 })
  await page.mouse.up()
  const taller = async () => (await chart(page, 'Coherence').boundingBox())!.height
  await expect.poll(taller).toBeGreaterThan(before!.height + 40)
  await page.reload()
  await expect(chart(page, 'Coherence')).toHaveAttribute('data-plot', /\d/)
  expect(await taller()).toBeGreaterThan(before!.height + 40)
  await chart(page, 'Phase').dblclick()
  await expect(chart(page, 'Magnitude')).toHaveCount(0)
  await page.getByRole('button', { name: 'Phase alone on the plate' }).click()
  await expect(chart(page, 'Magnitude')).toBeVisible()
})

test('takes have a phase too; the key names lines by what differs; a lone curve makes no cell fresh',
  async ({ page }) => {
    await openDemo(page)
    await measure(page, 'main-l/mix')
    await expect(page.getByTestId('trust')).toContainText(/\d\d blocks/)
    await page.getByTestId('take').click()
    await expect(cell(page, 'main-l/mix')).toHaveAttribute('data-state', 'fresh')
    await page.getByRole('button', { name: 'Settings of Phase' }).click()
    await page.getByRole('button', { name: 'one for all' }).click()
    await expect(page.getByText(/degrees, all from \d+\.\d\d ms/)).toBeVisible()
    await expect(async () => {
      const [file] = await Promise.all([
        page.waitForEvent('download'),
        page.getByRole('button', { name: 'SVG' }).click(),
      ])
      const svg = readFileSync(await file.path(), 'utf8')
      expect(svg).toMatch(/Mix desk, \d\d:\d\d</)
      expect(svg).toContain('Main L now')
    }).toPass()
    await page.getByRole('button', { name: 'Key of the lines' }).click()
    await expect(page.locator('[data-key-line]')).toHaveText([/^Mix desk, \d\d:\d\d$/, 'Main L now'])
    await page.keyboard.press('Escape')
    await expect(page.getByRole('button', { name: 'Key of the lines' })).toBeFocused()
    // a curve without phase, from a file, into a cell that was never measured
    await cell(page, 'main-l/rear').click()
    await page.getByLabel(/^Import a measurement/).setInputFiles({
      name: 'other.txt',
      mimeType: 'text/plain',
      buffer: Buffer.from(Array.from({ length: 60 }, (_, k) => `${(20 * 2 ** (k / 6)).toFixed(2)} -6`).join('\n')),
    })
    await expect(page.locator('[data-take]').filter({ hasText: 'other' })).toBeVisible()
    await expect(cell(page, 'main-l/rear')).toHaveAttribute('data-state', 'empty')
    await expect(cell(page, 'main-l/rear')).toHaveAccessibleName(/none was measured here/)
  })

test('an unmeasured site leads through its first take; a kept take ends the steps', async ({ page }) => {
  await openDemo(page)
  await page.evaluate(() => sessionStorage.removeItem('kovrin-cells'))
  const steps = page.getByTestId('first-steps')
  await steps.getByRole('button', { name: 'Main L at Mix desk' }).click()
  await steps.getByRole('button', { name: 'Start noise' }).click()
  await steps.getByRole('button', { name: 'Take', exact: true }).click()
  await expect(cell(page, 'main-l/mix')).toHaveAttribute('data-state', 'fresh')
  await expect(steps).toHaveCount(0)
})

test('group delay is readable: averaged over a stated width, outliers told', async ({ page }) => {
  await openDemo(page)
  await choose(page, 'Chart 2', 'Group delay')
  await measure(page, 'main-l/mix')
  await expect(page.getByText(/ms after its arrival, averaged over 1\/3 octave/)).toBeVisible()
  await page.getByRole('button', { name: 'Settings of Group delay' }).click()
  await choose(page, 'Averaged over: group delay', 'one octave')
  await expect(page.getByText(/averaged over one octave/)).toBeVisible()
  await expect(choice(page, 'Chart 2')).toHaveText('Group delay')
})

test('of several takes the newest is in view, the rest folds; many reasons of staleness are one line', async ({
  page,
  site,
}) => {
  await openDemo(page)
  await measure(page, 'main-l/mix')
  for (const count of [1, 2]) {
    await expect(page.getByTestId('trust')).toContainText(/\d\d blocks/)
    await page.getByTestId('take').click()
    await expect(cell(page, 'main-l/mix')).toHaveText(`${count}`)
  }
  await expect(page.locator('[data-take]')).toHaveCount(2)
  await page.getByRole('button', { name: '1 before the newest' }).click()
  await expect(page.locator('[data-take]')).toHaveCount(1)
  for (const [path, value] of [['/outputs/0/gain', -2], ['/outputs/0/delay', 0.001]] as const)
    await site.edit('processor', path, undefined, value, { live: true })
  const reasons = page.locator('[data-take] [data-stale]')
  await expect(reasons).toHaveText('2 things changed since')
  await reasons.getByRole('button').click()
  await expect(reasons).toContainText('0.0 dB → −2.0 dB')
})
