import type { Page } from '@playwright/test'
import type { Band } from '../core/rig'
import { area, cell, expect, measure, openDemo, test, type } from './pages'

const path = '/outputs/0/eq/0'
const handle = (page: Page, at = path) => page.locator(`[data-handle="${at}"]`)

test('a filter is taken hold of on the plate: dragged, widened, moved by keys; one drag is one undo', async ({
  page, site,
}) => {
  const draft = async () => (await site.value('processor', path))[0] as Band
  const before = await draft()
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await page.getByRole('radio', { name: 'Draft' }).click()
  const knob = handle(page)
  await expect(knob).toHaveAccessibleName('EQ band 1: 160 Hz, +4.0 dB, Q 1.20')
  const box = (await knob.boundingBox())!
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move(x + 60, y + 50, { steps: 15 })
  await page.mouse.up()
  await expect.poll(async () => (await draft()).gain).toBeLessThan(0)
  const dragged = await draft()
  expect(dragged.frequency).toBeGreaterThan(300)
  expect(dragged.q).toBe(before.q)
  await expect(page.getByTestId('unsent')).toContainText('1 unsent')
  await page.mouse.wheel(0, 120)
  await expect.poll(async () => (await draft()).q).toBeLessThan(before.q)
  const { q } = await draft()
  await knob.focus()
  await page.keyboard.press('ArrowUp')
  await expect.poll(async () => (await draft()).gain).toBeCloseTo(dragged.gain + 1, 6)
  await page.keyboard.press('PageDown')
  await expect.poll(async () => (await draft()).q).toBeGreaterThan(q)
  await page.keyboard.press('Delete')
  await expect(knob).toHaveCount(0)
  // what is done within two seconds to one filter by keys and wheel is one step, the drag another
  for (let n = 0; n < 6 && JSON.stringify(await draft()) !== JSON.stringify(dragged); n++) {
    await page.keyboard.press('z')
    await expect(page.locator('[data-notice="info"]').last()).toContainText('EQ band 1')
    await page.getByRole('button', { name: 'Dismiss' }).last().click()
  }
  await page.keyboard.press('z')
  await expect.poll(draft).toEqual(before)
  // a high-pass by its corner
  const corner = handle(page, '/outputs/0/highPass')
  await corner.focus()
  await page.keyboard.press('ArrowRight')
  await expect(corner).toHaveAccessibleName(/High-pass: 63\.\d+ Hz/)
})

test('takes in view are fitted to a target; what is set is one step, and what is left has its reason', async ({
  page, site,
}) => {
  await openDemo(page)
  await measure(page, 'main-l/mix')
  await page.getByTestId('take').click()
  await expect(cell(page, 'main-l/mix')).toHaveAttribute('data-state', 'fresh')
  await page.getByTestId('noise').click()
  await area(page, 'Shape')
  await page.getByRole('radio', { name: 'Draft' }).click()
  await page.getByRole('button', { name: 'Fit to a target' }).click()
  const fit = page.getByTestId('fit')
  await type(page, 'From', '80')
  await type(page, 'To', '20')
  await fit.getByRole('button', { name: 'Fit to 1 take in view' }).click()
  await expect(fit).toContainText('range must end above its start')
  await type(page, 'To', '700')
  await fit.getByRole('button', { name: 'Fit to 1 take in view' }).click()
  const said = fit.getByTestId('fit-error')
  await expect(said).toContainText('from the target now')
  const [before, after] = [...(await said.innerText()).matchAll(/([\d.]+) dB/g)].map(m => Number(m[1])) as number[]
  expect(after).toBeLessThan(before!)
  const held = await site.draft('processor')
  const count = await fit.getByRole('checkbox', { name: /Hz −.* Q/ }).count()
  expect(count).toBeGreaterThan(1)
  await fit.getByRole('checkbox', { name: /Hz −.* Q/ }).first().uncheck()
  await fit.getByRole('button', { name: 'Set these filters' }).click()
  await expect(page.locator('[data-notice="info"]').last()).toContainText(`${count - 1} filter`)
  const bands = async () =>
    Object.entries(await site.draft('processor')).filter(([p, v]) => p.startsWith('/outputs/0/eq/') && (v as Band).on)
  await expect.poll(async () => (await bands()).length).toBe(1 + count - 1)
  for (const [, v] of await bands()) expect((v as Band).gain).toBeLessThanOrEqual(4)
  await page.getByRole('button', { name: 'Undo' }).last().click()
  await expect.poll(() => site.draft('processor')).toEqual(held)
})
