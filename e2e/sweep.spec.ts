import { expect, test } from '@playwright/test'
import { addMicrophone, cell, openDemo, type } from './pages'

test('one sweep at a cell: level check, progress, response, noise and distortion as one take', async ({ page }) => {
  await openDemo(page)
  await addMicrophone(page, 2, 'row-1')
  await cell(page, 'main-r/mid').click()
  await type(page, 'Length', '1')
  await page.getByTestId('sweep-one').click()
  await expect(page.locator('[data-notice="error"]')).toContainText(
    'Main R gets no signal: the sweep would record another loudspeaker',
  )
  await page.getByRole('button', { name: 'Feed only this' }).click()
  await expect(page.getByTestId('path-finding')).toBeHidden()
  await page.getByTestId('sweep-one').click()
  await expect(page.getByTestId('sweep')).toContainText('check the level')
  await expect(cell(page, 'main-r/mid')).toHaveAttribute('data-state', 'fresh', { timeout: 40_000 })
  // heard by the second microphone at once
  await expect(cell(page, 'main-r/row-1')).toHaveAttribute('data-state', 'fresh')
  await expect(page.getByTestId('sweep-result')).toContainText(/arrival \d+\.\d\d ms, \d+ dB over the noise/)
  await expect(page.locator('[data-take]').first()).toContainText('sweep, Simulated interface')
  await page.getByLabel('Chart 2').selectOption('decay-times')
  // a sweep reaches far enough over the noise for T20
  await expect(page.getByTestId('decay-times')).toContainText(/1 kHz\s*\d\.\d\d\s*\d\.\d\d/)
  await page.getByLabel('Chart 3').selectOption('distortion')
  await expect(page.locator('[data-chart="Distortion by harmonic"] canvas')).toBeVisible()
})

test('sweep all: each source alone, stoppable, resumed where it was, and every mute put back', async ({
  page,
  request,
}) => {
  const held = async () =>
    (await (await request.get('/api/sites/ropewalk-hall')).json()).devices.map(
      (d: { held: { matrix: (number | null)[][], outputs: { mute: boolean }[] } }) => ({
        matrix: d.held.matrix,
        mutes: d.held.outputs.map(o => o.mute),
      }),
    )
  const mutes = async () => (await held()).flatMap((d: { mutes: boolean[] }) => d.mutes)
  await openDemo(page)
  const before = await held()
  const muted = before.flatMap((d: { mutes: boolean[] }) => d.mutes).filter(Boolean).length
  await type(page, 'Length', '0.5')
  const left = async () => Number(/(\d+) cell/.exec((await page.getByTestId('sweep-all').textContent()) ?? '')?.[1])
  const all = await left()
  await page.getByTestId('sweep-all').click()
  await expect(page.getByTestId('sweep')).toContainText(/3 of \d+/, { timeout: 60_000 })
  expect((await mutes()).filter(Boolean).length).toBeGreaterThan(muted)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByTestId('sweep-all')).toBeVisible()
  await expect.poll(held).toEqual(before)
  expect(await left()).toBeLessThan(all) // what was swept needs no second time
  await page.getByTestId('sweep-all').click()
  await expect(page.getByTestId('sweep')).toContainText(/1 of \d+/)
  await page.keyboard.press('.') // Hush ends it too
  await expect.poll(held).toEqual(before)
})

test('sweep all feeds each source in its turn: loudspeakers that were not connected are swept too, at every '
  + 'microphone, and nothing stays connected', async ({
  page,
  request,
}) => {
  const site = async () => (await request.get('/api/sites/ropewalk-hall')).json()
  const held = async () =>
    (await site()).devices.map((d: { held: { matrix: (number | null)[][], outputs: { mute: boolean }[] } }) => [
      d.held.matrix,
      d.held.outputs.map(o => o.mute),
    ])
  const swept = async () =>
    (await site()).takes.filter(
      (t: { sourceId: string, info: { method: string } }) =>
        !['main-l', 'main-r'].includes(t.sourceId) && t.info.method === 'sweep',
    ).length
  await openDemo(page)
  await addMicrophone(page, 2, 'rear')
  await type(page, 'Length', '0.5')
  const before = await held()
  const kept = await swept()
  await page.getByTestId('sweep-all').click()
  await expect.poll(swept, { timeout: 80_000 }).toBeGreaterThan(kept + 1)
  await page.getByRole('button', { name: 'Stop', exact: true }).click()
  await expect(page.getByTestId('sweep-all')).toBeVisible()
  await expect.poll(held).toEqual(before)
})

test('mutes are put back even when the page is closed in the middle of a round', async ({ page, request }) => {
  const mutes = async () =>
    (await (await request.get('/api/sites/ropewalk-hall')).json()).devices.flatMap(
      (d: { held: { outputs: { mute: boolean }[] } }) => d.held.outputs.map(o => o.mute),
    )
  await openDemo(page)
  const before = await mutes()
  await page.getByTestId('sweep-all').click()
  await expect
    .poll(async () => (await mutes()).filter(Boolean).length)
    .toBeGreaterThan(before.filter(Boolean).length)
  await page.reload()
  await expect.poll(mutes).toEqual(before)
  await expect(page.locator('[data-notice="info"]').filter({ hasText: 'as they were before' })).toBeVisible()
})
