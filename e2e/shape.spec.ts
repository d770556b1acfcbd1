import type { Page } from '@playwright/test'
import type { Band } from '../core/rig'
import { act, agree, area, cell, expect, measure, openDemo, test, type } from './pages'

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

test('filters go by the clipboard from a strip to one of another device, whose Q means something else', async ({
  page, site, context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await page.getByRole('radio', { name: 'Draft' }).click()
  await act(page, 'Filters', 'New filter')
  await type(page, 'EQ band 2 gain', '-6')
  await type(page, 'EQ band 2 Q', '1 oct')
  await act(page, 'Filters', 'Copy all as text')
  const text = await page.evaluate(() => navigator.clipboard.readText())
  expect(text.split('\n')[0]).toBe('number\tkind\tfrequency_hz\tgain_db\tq\tbandwidth_oct')
  expect(text).toContain('2\tpeaking\t250\t-6\t1.41')
  await page.locator('[data-block="amp-a-outputs-0"]').click()
  await expect(page.getByTestId('shape-inspector')).toContainText('Amplifier A (mains), output 1')
  await act(page, 'Filters', 'Put in those on the clipboard')
  const set = async () => (await site.value('amp-a', '/outputs/0/eq/1'))[0] as Band
  await expect.poll(async () => (await set()).on).toBe(true)
  // the amplifier states the Q of the resonance: √(6 dB as a ratio) more for the same filter
  expect((await set()).q).toBeCloseTo(1.414 * 10 ** (6 / 40), 1)
  await page.evaluate(() => navigator.clipboard.writeText('Dear sound crew'))
  await act(page, 'Filters', 'Put in those on the clipboard')
  await expect(page.locator('[data-notice="error"]')).toContainText('This is no list of filters')
  await act(page, 'Filters', 'Take all out')
  await expect.poll(async () => (await set()).on).toBe(false)
})

test('a new take says how far it lies from what the one before it foresaw', async ({ page, site }) => {
  await openDemo(page)
  await measure(page, 'main-l/mid')
  await expect(page.getByTestId('trust')).toContainText(/2\d blocks/)
  await page.getByTestId('take').click()
  await expect(cell(page, 'main-l/mid')).toHaveAttribute('data-state', 'fresh')
  await page.locator('[data-block="processor-inputs-0"]').click() // before the two bands part
  await type(page, 'EQ band 3 gain', '-8')
  await expect.poll(async () => ((await site.value('processor', '/inputs/0/eq/2'))[1] as Band).gain).toBe(-8)
  await expect(cell(page, 'main-l/mid')).toHaveAttribute('data-state', 'stale')
  await expect(page.getByTestId('trust')).toContainText(/2\d blocks/)
  await page.getByTestId('take').click()
  const said = page.locator('[data-notice="info"]').filter({ hasText: 'Predicted and measured differ by' })
  await expect(said).toBeVisible()
  expect(Number(/differ by ([\d.]+) dB/.exec((await said.textContent())!)![1])).toBeLessThanOrEqual(0.5)
})

test('a limiter is heard and seen to work, and says its threshold in volts where a loudspeaker hangs', async ({
  page, site,
}) => {
  await openDemo(page)
  await measure(page, 'main-l/mix')
  const heard = page.locator('[data-block="mic"]')
  const level = async () => Number(/hears −(\d+) dBFS/.exec((await heard.textContent())!)?.[1])
  await expect.poll(level).toBeLessThan(30)
  const before = await level()
  await page.locator('[data-block="amp-a-outputs-0"]').click()
  await page.getByRole('button', { name: 'Limiter: off' }).click()
  await type(page, 'Limiter threshold', '-36')
  await expect(page.getByTestId('shape-inspector')).toContainText('Its threshold is 1.4 V at output 1.')
  await expect(page.getByTestId('reduction')).toHaveCount(0)
  await page.getByLabel('Limiter on').check()
  await expect.poll(async () => ((await site.value('amp-a', '/outputs/0/limiter'))[1] as { on: boolean }).on).toBe(true)
  await expect(page.getByTestId('reduction')).toContainText(/takes away \d+\.\d dB now/)
  await expect.poll(level).toBeGreaterThan(before + 1) // the low band carries most of pink noise
  await page.getByRole('button', { name: 'Hush' }).click()
  await expect(page.getByTestId('reduction')).toContainText('takes nothing away now')
})

test('under Live hands a drag goes up 6 dB by itself and asks for the rest once, when it ends', async ({
  page, site,
}) => {
  const gain = async () => ((await site.value('processor', path))[1] as Band).gain
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  const box = (await handle(page).boundingBox())!
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
  const pull = async () => {
    await page.mouse.move(x, y)
    await page.mouse.down()
    await page.mouse.move(x, y - 90, { steps: 20 })
    await expect.poll(gain).toBeCloseTo(10, 6)
    await expect(page.getByTestId('question')).toBeHidden()
    await page.mouse.up()
    await expect(page.getByTestId('question')).toContainText(/Main L: \+?8\.0 dB louder at once/)
  }
  await pull()
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('question')).toBeHidden()
  expect(await gain()).toBeCloseTo(10, 6)
  await page.keyboard.press('z')
  await expect.poll(gain).toBe(4)
  await pull()
  await agree(page)
  await expect.poll(gain).toBe(12)
})
