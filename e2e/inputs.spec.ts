import { choice, addMicrophone, cell, choose, expect, measure, openDemo, test, type } from './pages'

const rows = '[data-measurement]'

test('inputs are named, labelled and hidden in one place, remembered, and one click starts clean', async ({
  page,
}) => {
  await openDemo(page)
  await page.getByTestId('inputs').click()
  const plate = page.getByRole('region', { name: 'Inputs and outputs' })
  await expect(plate.locator('[data-input="simulated-interface"] tbody tr')).toHaveCount(8)
  await expect(plate).toContainText('reference') // what each channel is used as
  await type(page, 'Name of Simulated interface', 'Stage box')
  await type(page, 'Label of channel 1 of Simulated interface', 'Tall stand')
  await plate.getByRole('button', { name: 'Hide Simulated USB microphone' }).click()
  await expect(plate.locator('[data-input="simulated-usb-microphone"]')).toBeHidden()
  await page.reload()
  // what was looked at is looked at again
  await expect(plate).toBeVisible()
  await expect(page.locator(rows)).toContainText('Tall stand')
  await page.getByRole('button', { name: 'Settings of Tall stand' }).click()
  // the hidden one is not offered
  await choice(page, 'Microphone channel').click()
  await expect(page.getByRole('option', { name: 'Simulated interface' })).toHaveCount(0) // it is called Stage box now
  await expect(page.getByRole('option', { name: 'Stage box' })).toBeVisible()
  await expect(page.getByRole('option', { name: /USB/ })).toHaveCount(0)
  await page.keyboard.press('Escape')
  await expect(page.getByRole('option')).toHaveCount(0)
  await plate.getByRole('button', { name: /Show hidden/ }).click()
  await plate.getByRole('button', { name: 'Show Simulated USB microphone' }).click()
  await page.getByRole('button', { name: 'Reset inputs and outputs' }).click()
  await expect(page.locator(rows)).toContainText('Microphone 1')
  await expect(page.getByLabel('Name of Simulated interface')).toHaveValue('')
  await page.getByRole('button', { name: 'Restore' }).click()
  await expect(page.getByLabel('Name of Simulated interface')).toHaveValue('Stage box')
})

test('a measurement is refused with the reason, and the others go on', async ({ page }) => {
  await openDemo(page)
  await addMicrophone(page, 2, 'Mid house')
  await measure(page, 'main-l/mix')
  const second = page.locator(rows).nth(1)
  await page.getByRole('button', { name: 'Settings of Microphone 2' }).click()
  await choose(page, 'Microphone channel', 'Loopback, output 1')
  await expect(second).toHaveAttribute('data-state', 'refused')
  await expect(second).toContainText('same channel')
  await choose(page, 'Microphone channel', 'Microphone 1')
  await expect(second).toContainText('stands at another position already')
  await choose(page.locator(rows).nth(1), 'Microphone 1 stands', 'where the picked cell says')
  await expect(second).toContainText('same measurement as one above it')
  await expect(page.getByTestId('trust')).toContainText(/[1-9]\d* blocks/)
})

test('measurements pause, stop and go on each for itself and all at once; sets are switched under their names', async ({
  page,
}) => {
  await openDemo(page)
  await choose(page, 'Set of measurements', 'Three microphones')
  await measure(page, 'main-l/mix')
  await expect(page.getByTestId('trust')).toContainText(/\d\d blocks/)
  await page.getByRole('button', { name: 'Pause Microphone 1' }).click()
  await expect(page.locator(rows).first()).toHaveAttribute('data-state', 'paused')
  const meter = page.getByRole('meter', { name: 'Microphone 2 level' })
  await expect(meter).not.toHaveAttribute('aria-valuenow', '-80')
  // the plate says it once the analysis has stopped
  await expect(page.getByTestId('trust')).toContainText('blocks, paused')
  const blocks = await page.getByTestId('trust').textContent()
  await page.getByTestId('take').click()
  await expect(
    page.locator('[data-notice="error"], [data-notice="warn"]').filter({ hasText: 'paused' }),
  ).toBeVisible()
  expect(await page.getByTestId('trust').textContent()).toBe(blocks)
  await page.getByRole('button', { name: 'Start Microphone 1' }).click()
  await expect(page.getByTestId('trust')).not.toContainText('paused')
  await expect(page.getByTestId('trust')).not.toHaveText(blocks!.replace(', paused', ''))
  await page.getByRole('button', { name: 'Stop Microphone 3' }).click()
  await expect(page.getByRole('meter', { name: 'Microphone 3 level' })).toBeHidden()
  await page.getByRole('button', { name: 'Pause all' }).click()
  await expect(page.locator(`${rows}[data-state="paused"]`)).toHaveCount(2)
  await page.getByRole('button', { name: 'Resume all' }).click()
  // another set under a name of its own; the noise goes on
  await page.getByRole('button', { name: 'New set from this one' }).click()
  await page.getByLabel('Name of the new set').fill('Stage lip')
  await page.keyboard.press('Enter')
  await expect(choice(page, 'Set of measurements')).toHaveText('Stage lip')
  await page.getByRole('button', { name: 'Settings of Microphone 3' }).click()
  await page.getByRole('button', { name: 'Remove this measurement from the set' }).click()
  await expect(page.locator(rows)).toHaveCount(2)
  await choose(page, 'Set of measurements', 'Three microphones')
  await expect(page.locator(rows)).toHaveCount(3)
  await expect(page.getByTestId('noise-state')).toContainText('Noise')
  await page.reload()
  await choose(page, 'Set of measurements', 'Stage lip')
  await expect(page.locator(rows)).toHaveCount(2)
  await page.getByRole('button', { name: 'Delete this set' }).click()
  await page.getByRole('button', { name: 'Restore' }).click()
  await expect(choice(page, 'Set of measurements')).toHaveText('Stage lip')
})

test('a microphone with a clock of its own is told by its drift, and the drift is taken out', async ({ page }) => {
  await openDemo(page)
  await page.getByRole('button', { name: 'Settings of Microphone 1' }).click()
  await choose(page, 'Microphone channel', 'USB microphone')
  await measure(page, 'main-l/mid')
  await expect(page.locator('[data-finding="drift"]')).toContainText(
    /different clocks: drift 3\d ppm, 2\.\d\d ms a minute. It is taken out/,
    { timeout: 45_000 },
  )
})

test('music from the console is a reference too, a quiet microphone is told how much to raise, and the wrong output '
  + 'stays silent', async ({
  page,
}) => {
  await openDemo(page)
  await page.getByTestId('inputs').click()
  await type(page, 'Gain of channel 3 of Simulated interface', '-55') // too low in the loudest bar of the music too
  await page.getByRole('button', { name: 'Charts' }).first().click()
  await page.getByRole('button', { name: 'Settings of Microphone 1' }).click()
  await choose(page, 'Reference channel', 'Console left')
  await page.getByLabel('The console plays music into the rig').check()
  await cell(page, 'main-l/mix').click()
  await page.getByTestId('listen-only').click()
  await expect(page.getByTestId('arrival')).toContainText('40.')
  await expect(page.getByTestId('noise-state')).toContainText('Console music')
  await choose(page, 'Microphone channel', 'Microphone 3')
  await expect(page.locator(rows)).toContainText(/quiet: raise the microphone by \d+ dB/)
  await page.getByLabel('The console plays music into the rig').uncheck()
  await choose(page, 'Reference channel', 'Loopback, output 1')
  await choose(page, 'Generator outputput', 'Output 3: not connected')
  await page.getByTestId('noise').click()
  await expect(page.locator('[data-finding="ref-silent"]')).toContainText('is the right channel chosen')
})
