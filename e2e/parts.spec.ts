import { allOf } from '../core/documents'
import { agree, area, cell, choice, choose, expect, openDemo, test, told, type } from './pages'

const field = (page: import('@playwright/test').Page, label: string) => page.getByLabel(label, { exact: true })

test.beforeEach(async ({ page }) => {
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await page.getByRole('radio', { name: 'Draft' }).click()
})

test('a number takes every unit, is nudged by keys, wheel and drag, and Escape leaves it as it was', async ({
  page,
}) => {
  await type(page, 'EQ band 2 frequency', '2k5')
  await expect(field(page, 'EQ band 2 frequency')).toHaveValue('2.5k')
  await type(page, 'EQ band 2 Q', '1/3 oct')
  await expect(field(page, 'EQ band 2 Q')).toHaveValue('4.32') // 1/(2 sinh(ln 2/2 · 1/3)): Audio EQ Cookbook
  await type(page, 'Gain', '-6,5')
  await expect(field(page, 'Gain')).toHaveValue('−6.5 dB')
  await type(page, 'Delay', '3,43 m')
  await expect(field(page, 'Delay')).toHaveValue(/^(9\.9\d|10\.0\d) ms$/)
  await field(page, 'Gain').focus()
  await page.keyboard.press('ArrowDown')
  await expect(field(page, 'Gain')).toHaveValue('−7.0 dB')
  await page.keyboard.press('Shift+ArrowUp')
  await expect(field(page, 'Gain')).toHaveValue('−2.0 dB')
  await field(page, 'Gain').hover()
  await page.mouse.wheel(0, 100)
  await expect(field(page, 'Gain')).toHaveValue('−2.5 dB')
  await page.keyboard.type('-40')
  await page.keyboard.press('Escape')
  await expect(field(page, 'Gain')).toHaveValue('−2.5 dB')
  await expect(field(page, 'Gain')).not.toBeFocused()
  // a wheel over a field that nobody is in changes nothing
  await page.mouse.wheel(0, 100)
  await expect(field(page, 'Gain')).toHaveValue('−2.5 dB')
  const box = (await field(page, 'Gain').boundingBox())!
  await page.mouse.move(box.x + 40, box.y + 10)
  await page.mouse.down()
  await page.mouse.move(box.x + 40 - 20, box.y + 10, { steps: 4 })
  await page.mouse.up()
  await expect(field(page, 'Gain')).toHaveValue('−4.0 dB') // three steps of half a dB
  await expect(field(page, 'Gain')).not.toBeFocused()
  await type(page, 'Gain', 'loud')
  await expect(page.getByRole('alert')).toContainText('“loud” is not understood')
})

test('letters are commands only where nobody types: never in a field, never in a choice', async ({ page }) => {
  await choice(page, 'High-pass family and slope').focus()
  const before = await choice(page, 'High-pass family and slope').textContent()
  await page.keyboard.press('l') // Live
  await expect(page.getByRole('radio', { name: 'Live' })).toHaveAttribute('aria-checked', 'true')
  await expect(page.getByRole('listbox')).toHaveCount(0)
  await expect(choice(page, 'High-pass family and slope')).toHaveText(before!)
  await page.keyboard.press('l')
  await expect(page.getByRole('radio', { name: 'Draft' })).toHaveAttribute('aria-checked', 'true')
  await field(page, 'Gain').focus()
  await page.keyboard.press('l')
  await expect(page.getByRole('radio', { name: 'Draft' })).toHaveAttribute('aria-checked', 'true')
  await expect(field(page, 'Gain')).toHaveValue('l')
  await page.keyboard.press('Escape')
  await page.keyboard.press('l')
  await expect(page.getByRole('radio', { name: 'Live' })).toHaveAttribute('aria-checked', 'true')
})

test('nothing is written over what somebody is in: what arrives is shown beside it, and taken or left', async ({
  page,
  site,
}) => {
  const edit = async (path: string, value: unknown) => {
    const [now] = await site.value('processor', path)
    expect((await site.edit('processor', path, now === null ? undefined : now, value)).status).toBe(200)
  }
  await type(page, 'Gain', '-1')
  await expect.poll(async () => (await site.value('processor', '/outputs/0/gain'))[0]).toBe(-1)
  // somebody types: it stays, and wins on leaving
  await field(page, 'Gain').fill('-4')
  await edit('/outputs/0/gain', -3)
  await expect(page.getByText('now −3.0 dB by Somebody')).toBeVisible()
  await expect(page.getByTestId('changed-by').first()).toContainText(/changed by Somebody, \d\d:\d\d/)
  await expect(field(page, 'Gain')).toHaveValue('-4')
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await site.value('processor', '/outputs/0/gain'))[0]).toBe(-4)
  // somebody only stands in it: what arrived is taken on leaving
  await field(page, 'Gain').focus()
  await edit('/outputs/0/gain', -5)
  await expect(page.getByText('now −5.0 dB by Somebody')).toBeVisible()
  await expect(field(page, 'Gain')).toHaveValue('−4.0 dB')
  await page.keyboard.press('Escape')
  await expect(field(page, 'Gain')).toHaveValue('−5.0 dB')
  expect((await site.value('processor', '/outputs/0/gain'))[0]).toBe(-5)
  // an open choice
  await choice(page, 'Polarity').click()
  await edit('/outputs/0/polarity', 'inverted')
  await expect(page.getByText('now inverted by Somebody')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(choice(page, 'Polarity')).toHaveText('inverted')
  // a line of text, with another's edit under it
  await area(page, 'Site')
  await page.getByRole('button', { name: 'Add position' }).click()
  await field(page, 'Name').fill('Where I')
  const made = allOf(await site.documents(), 'position').at(-1)!
  const other = [{ document: `position/${made.id}`, path: '/name', old: made.name, new: 'Gallery' }]
  expect((await site.post('/changes', { edits: other })).status).toBe(200)
  await expect(page.getByText('now “Gallery”')).toBeVisible()
  await expect(field(page, 'Name')).toHaveValue('Where I')
  await page.keyboard.press('Escape')
  await expect(field(page, 'Name')).toHaveValue('Gallery')
})

test('a slow answer takes nothing away from what is being typed', async ({ page }) => {
  let go = () => {}
  const gate = new Promise<void>((open) => {
    go = open
  })
  await page.route('**/changes', async (route) => {
    await gate
    await route.continue()
  })
  await type(page, 'Gain', '-1')
  await field(page, 'Gain').fill('-2,')
  go()
  await expect(page.getByTestId('devices')).toBeVisible()
  await expect(field(page, 'Gain')).toHaveValue('-2,')
  await page.keyboard.type('5')
  await page.keyboard.press('Enter')
  await expect(field(page, 'Gain')).toHaveValue('−2.5 dB')
})

test('every key stands on one sheet and can be another; the palette finds every action', async ({ page }) => {
  await page.keyboard.press('k')
  const sheet = page.getByRole('dialog', { name: 'Keyboard shortcuts' })
  await sheet.getByRole('button', { name: /^Key of Night theme|^Key of Day theme/ }).click()
  await page.keyboard.press('x')
  await expect(sheet.getByRole('button', { name: /theme: X/ })).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(sheet).toBeHidden()
  const theme = await page.locator('html').getAttribute('data-theme')
  await page.keyboard.press('d') // no longer
  await page.keyboard.press('x')
  await expect(page.locator('html')).not.toHaveAttribute('data-theme', theme!)
  for (const [words, name] of [
    ['only', 'Feed only this source'],
    ['also feed', 'Also feed this source'],
    ['sweep all', 'Sweep all cells that are to do'],
    ['import', 'Import a curve or WAV'],
    ['compare diff', 'Compare: difference of two'],
    ['inputs', 'Inputs and outputs'],
    ['chart group', 'Show chart: Group delay'],
  ] as const) {
    await page.keyboard.press(words === 'only' ? '/' : 'Control+k')
    await expect(page.getByLabel('Find a command')).toHaveValue('')
    await page.getByLabel('Find a command').fill(words)
    await expect(page.getByRole('option').first()).toContainText(name)
    await page.keyboard.press('Escape')
  }
  // Escape closes what stands where the charts do
  const large = page.getByTestId('ledger-plate')
  await page.keyboard.press('g')
  await expect(large).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(large).toBeHidden()
})

test('the guide opens at the page of this screen, is searched, and leads from page to page', async ({ page }) => {
  await page.keyboard.press('?')
  const guide = page.getByRole('dialog', { name: 'Guide' })
  await expect(guide.getByRole('heading', { name: 'Every chart' })).toBeVisible() // the charts of Shape
  await guide.getByRole('button', { name: 'First measurement' }).click()
  await expect(guide.getByRole('heading', { name: 'First measurement' })).toBeVisible()
  await expect(guide.getByRole('img').first()).toHaveJSProperty('complete', true)
  expect(await guide.getByRole('img').first().evaluate((i: HTMLImageElement) => i.naturalWidth)).toBeGreaterThan(600)
  await guide.getByLabel('Search the guide').fill('summation loss')
  await guide.getByRole('button', { name: /^Align subs to mains/ }).click()
  await expect(guide.getByRole('heading', { name: 'Align subs to mains' })).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(guide).toBeHidden()
  await page.keyboard.press('Control+k')
  await page.getByLabel('Find a command').fill('guide trouble')
  await page.keyboard.press('Enter')
  await guide.getByRole('link', { name: 'Trust' }).click()
  await expect(guide.getByRole('heading', { name: /^Trust/ })).toBeVisible()
})

test('the ledger is one tab stop with arrows inside; skip links lead to each part', async ({ page }) => {
  await cell(page, 'main-l/mix').focus()
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('ArrowDown')
  await expect(cell(page, 'main-r/row-1')).toBeFocused()
  expect(await page.locator('[data-cell][tabindex="0"]').count()).toBe(1)
  await page.keyboard.press('Tab')
  expect(await page.evaluate(() => document.activeElement?.hasAttribute('data-cell'))).toBe(false)
  await page.getByRole('link', { name: 'To the path' }).focus()
  await page.keyboard.press('Enter')
  expect(await page.evaluate(() => !!document.activeElement?.closest('.ribbon'))).toBe(true)
})

test('a leaf opens at the first press and closes at the second; Escape closes it too, and the focus is back', async ({
  page,
}) => {
  const button = page.getByRole('button', { name: 'Key of the lines' })
  const leaf = page.locator('.p-popover').filter({ hasText: 'measured now' })
  for (let n = 0; n < 2; n++) {
    await button.click()
    await expect(leaf).toBeVisible()
    await expect(button).toHaveAttribute('aria-expanded', 'true')
    await button.click()
    await expect(leaf).toBeHidden()
    await expect(button).toHaveAttribute('aria-expanded', 'false')
  }
  await button.press('Enter')
  await expect(leaf).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(leaf).toBeHidden()
  await expect(button).toBeFocused()
})

test('a block of the path is muted and set where it stands; feeding in Draft says that it waits', async ({
  page,
  site,
}) => {
  await page.getByRole('button', { name: /^Act on System processor out 1/ }).click()
  await page.getByRole('dialog').getByLabel('Mute').check()
  await expect.poll(async () => (await site.value('processor', '/outputs/0/mute'))[0]).toBe(true)
  await expect(page.locator('[data-block="processor-outputs-0"]')).toContainText(/muted/i)
  await page.keyboard.press('Escape')
  await cell(page, 'main-r/mix').click()
  await page.getByRole('button', { name: 'Feed only this' }).click()
  await told(page, 'warn', 'waits in the draft: Main R is fed once it is sent')
  await page.getByRole('button', { name: 'Send it now' }).click()
  await expect(page.locator('[data-block="processor-matrix"]')).toContainText('0.0 dB')
})

test('Live reach a block’s gain from the path too, and ask before a loud step', async ({ page, site }) => {
  await page.getByRole('radio', { name: 'Live' }).click()
  await page.getByRole('button', { name: /^Act on System processor out 1/ }).click()
  const leaf = page.getByRole('dialog')
  await leaf.getByLabel('Gain', { exact: true }).fill('-20')
  await page.keyboard.press('Enter')
  await expect.poll(async () => (await site.value('processor', '/outputs/0/gain'))[1]).toBe(-20)
  await leaf.getByLabel('Gain', { exact: true }).fill('0')
  await page.keyboard.press('Enter')
  await agree(page)
  await expect.poll(async () => (await site.value('processor', '/outputs/0/gain'))[1]).toBe(0)
  await choose(page, 'Chart 2', 'Group delay')
  await expect(page.locator('[data-chart="Group delay"]')).toBeVisible()
})
