import { expect, test } from '@playwright/test'
import { area, cell, measure, openDemo, type } from './pages'

const said = (words: string | RegExp) => ({ hasText: words })

test('undo and redo reach across settings, takes and the plan, in their order, and survive a reload', async ({
  page,
  request,
}) => {
  const site = async () =>
    (await (await request.get('/api/sites/ropewalk-hall')).json()) as {
      takes: { name: string, sourceId: string, positionId: string, hue: number | null }[]
      devices: { id: string, draft: { outputs: { gain: number }[] }, held: { outputs: { gain: number }[] } }[]
      positions: { id: string, name: string }[]
    }
  const gain = async () => {
    const p = (await site()).devices.find(d => d.id === 'processor')!
    return [p.draft.outputs[0]!.gain, p.held.outputs[0]!.gain]
  }
  const takes = async () =>
    (await site()).takes
      .filter(t => t.sourceId === 'main-l' && t.positionId === 'balcony-seat')
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
  await type(page, 'Gain', '-7') // 3
  await expect.poll(async () => (await gain())[0]).toBe(-7)
  await page.reload()
  await expect(page.getByTestId('devices')).toContainText('4 of 4')
  await page.locator('body').press('z')
  await expect(page.locator('[data-notice]').filter(said('System processor: output 1 gain is'))).toBeVisible()
  await expect.poll(gain).toEqual(before)
  await page.locator('body').press('z')
  await expect.poll(takes).toEqual([name])
  await page.locator('body').press('z')
  await expect(page.locator('[data-notice]').filter(said(`“${name}” is out of the ledger`))).toBeVisible()
  await expect.poll(takes).toEqual([])
  for (const wanted of [[name], [`${name}3`], [`${name}3`]]) {
    await page.locator('body').press('y')
    await expect.poll(takes).toEqual(wanted)
  }
  await expect.poll(async () => (await gain())[0]).toBe(-7)
  await page.locator('body').press('y')
  await expect(page.locator('[data-notice="error"]').filter(said('nothing left to redo'))).toBeVisible()
  await page.locator('body').press('z') // as it was, for whoever comes after
  await expect.poll(gain).toEqual(before)
})

test('steps of one knob are one change, one button’s many edits go back together, and what somebody else changed is '
  + 'left alone', async ({
  page,
  request,
}) => {
  const processor = async () =>
    (await (await request.get('/api/sites/ropewalk-hall')).json()).devices.find(
      (d: { id: string }) => d.id === 'processor',
    ).draft
  const undo = async () => await request.post('/api/sites/ropewalk-hall/undo', { data: { live: false } })
  const edit = async (path: string, old: unknown, value: unknown, who: string, gesture?: string | null) =>
    expect(
      (
        await request.post('/api/sites/ropewalk-hall/devices/processor/edits', {
          data: { path, old, new: value, live: false, ...(gesture === undefined ? {} : { gesture }) },
          headers: { 'x-kovrin-who': who },
        })
      ).status(),
    ).toBe(200)
  const first = await processor()
  const gain = first.outputs[6].gain
  const delay = first.outputs[6].delay
  for (const [a, b] of [
    [gain, -1],
    [-1, -2],
    [-2, -3],
  ])
    await edit('/outputs/6/gain', a, b, 'Ann')
  expect((await undo()).status()).toBe(200)
  expect((await processor()).outputs[6].gain).toBe(gain)
  // one gesture of several edits
  for (const n of [6, 7]) await edit(`/outputs/${n}/gain`, first.outputs[n].gain, -9, 'Ann', 'both')
  expect((await (await undo()).json()).what).toContain('(and 1 more)')
  expect((await processor()).outputs).toEqual(first.outputs)
  // an unrecorded edit (a sweep's mute) is not taken back, and makes the one before it overtaken; the one
  // before that can still be reached
  await edit('/outputs/6/delay', delay, 0.01, 'Ann')
  await edit('/outputs/6/gain', gain, -4, 'Ann')
  await edit('/outputs/6/gain', -4, -5, 'Ben', null)
  const refused = await undo()
  expect(refused.status()).toBe(409)
  expect((await refused.json()).message).toMatch(/changed meanwhile.*once more for the change before it/)
  expect((await processor()).outputs[6].gain).toBe(-5)
  expect((await undo()).status()).toBe(200)
  expect((await processor()).outputs[6].delay).toBeCloseTo(delay, 6)
  await edit('/outputs/6/gain', -5, gain, 'Ann', null)
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await page.getByRole('button', { name: 'Commands' }).click()
  await expect(page.getByText('Undo the last change')).toBeVisible()
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
