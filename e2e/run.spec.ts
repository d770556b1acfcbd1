import { area, cell, expect, openDemo, test, told } from './pages'

test('the run sheet knows its steps and does them by itself: sweeps, waits for a person, proposes, sets', async ({
  page, site,
}) => {
  // sixteen sweeps, on a busy machine: what is waited for is the state
  test.setTimeout(600_000)
  // two positions count, so that the microphone is moved once
  const edits = ['mid', 'rear', 'balcony-seat'].map(id =>
    ({ document: `position/${id}`, path: '/weight', old: id === 'balcony-seat' ? 0.5 : 1, new: 0 }))
  expect((await site.post('/changes', { edits })).status).toBe(200)
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  const progress = page.getByTestId('run-progress')
  await expect(progress).toContainText(/Run sheet 0\/2\d/)
  await progress.click()
  const sheet = page.getByTestId('run-plate')
  const step = (id: string) => sheet.locator(`[data-step="${id}"]`)
  await expect(step('alone/main-l')).toContainText('still to measure: Mix desk, Row 1')
  // a step opens where it is done, with its cell picked
  await sheet.getByRole('button', { name: 'Open: Measure Delay L alone' }).click()
  await expect(page.locator('.ribbon')).toContainText('Delay L')
  await progress.click()
  // what is skipped is kept, and can be taken up again
  await step('alone/foyer').getByRole('button', { name: 'Skip' }).click()
  await expect(step('alone/foyer')).toHaveAttribute('data-state', 'skipped')
  const skipped = async () => ((await site.documents()).site as { skipped: string[] }).skipped
  await expect.poll(skipped).toEqual(['alone/foyer'])
  await cell(page, 'main-l/mix').click()
  await sheet.getByRole('button', { name: 'Do it for me' }).click()
  await page.getByRole('button', { name: 'Start', exact: true }).click()
  const work = page.getByTestId('run-work')
  await expect(work).toHaveAttribute('data-state', 'moving', { timeout: 300_000 })
  await expect(work).toContainText('Move the microphone to Row 1')
  await work.getByRole('button', { name: 'Microphone is in place' }).click()
  await expect(work).toHaveAttribute('data-state', 'proposals', { timeout: 300_000 })
  const held = () => site.held('processor')
  const before = await held()
  await expect(step('alone/main-l')).toHaveAttribute('data-state', 'done')
  // nothing is set before it is accepted, and one can be left out
  await work.locator('[data-proposal="shape/balcony"]').getByRole('checkbox').uncheck()
  await expect(work.getByRole('button', { name: /^Accept/ })).toHaveText(/Accept (\d+) of/)
  expect(await held()).toEqual(before)
  await area(page, 'Align')
  await page.getByRole('radio', { name: 'Draft' }).or(page.getByRole('button', { name: 'Draft' })).first().click()
  await progress.click()
  await work.getByRole('button', { name: /^Accept/ }).click()
  await told(page, 'info', /proposals are set/)
  await expect(step('shape/main-l')).toHaveAttribute('data-state', 'done')
  await expect(step('time/delay-l')).toHaveAttribute('data-state', 'done')
  await expect(step('sum/subs')).toHaveAttribute('data-state', 'done')
  const drafted = await site.draft('processor')
  expect(drafted['/outputs/10/eq/0']).toBeUndefined()
  // an edit that makes a step untrue reopens it
  const [now] = await site.value('processor', '/outputs/6/delay')
  expect((await site.edit('processor', '/outputs/6/delay', now, undefined)).status).toBe(200)
  await expect(step('time/delay-l')).toHaveAttribute('data-state', 'open')
})
