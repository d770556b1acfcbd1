import { readFileSync } from 'node:fs'
import { act, addMicrophone, cell, choice, choose, expect, measure, openDemo, test, told, type } from './pages'
import { readCurveText } from '../core/formats/curveText'
import { readWav, writeWav } from '../core/formats/wav'
import { pinkNoise } from '../core/dsp'

const chart = (name: string) => `[data-chart="${name}"]`

test('every chart can be chosen where it stands, shows what is measured, and is remembered', async ({ page }) => {
  await openDemo(page)
  await measure(page, 'main-l/mid')
  for (const [, name] of [
    ['group-delay', 'Group delay'],
    ['impulse', 'Impulse response'],
    ['envelope', 'Envelope (dB)'],
    ['step', 'Step response'],
    ['spectrum', 'Spectrum'],
    ['spectrogram', 'Spectrogram'],
  ] as const) {
    await choose(page, 'Chart 2', name)
    await expect(page.locator(`${chart(name)} canvas`)).toBeVisible()
  }
  await choose(page, 'Chart 2', 'Decay times and clarity')
  await expect(page.getByTestId('decay-times')).toContainText(/1 kHz\s*\d\.\d\d/)
  await choose(page, 'Chart 3', 'Decay over frequency')
  await expect(page.getByTestId('rings')).toContainText(/ms/)
  await choose(page, 'Chart 3', 'Sound level')
  await expect(page.getByTestId('level')).toContainText(/−\d\d\.\d\s*dBFS \(A\)/)
  await page.getByRole('button', { name: 'Settings of Sound level' }).click()
  await type(page, 'Sensitivity: 0 dBFS =', '120')
  await expect(page.getByTestId('level')).toContainText(/\d\d\.\d\s*dB\(A\)/)
  await page.getByRole('button', { name: 'Settings of Magnitude' }).click()
  await choose(page, 'Frequencies', 'low, 20 to 200 Hz')
  await page.reload()
  await expect(choice(page, 'Chart 3')).toHaveText('Sound level')
  await page.getByLabel('Close Sound level').click()
  await expect(choice(page, 'Chart 3')).toBeHidden()
  await page.getByRole('button', { name: 'Settings of Magnitude' }).click()
  await expect(choice(page, 'Frequencies')).toHaveText(/^low,/)
})

test('the cursor tells frequency, level, wavelength and note; a click keeps a second one to measure from', async ({
  page,
}) => {
  await openDemo(page)
  await measure(page, 'main-l/mid')
  const box = (await page.locator(chart('Magnitude')).boundingBox())!
  await page.mouse.move(box.x + box.width * 0.4, box.y + 80)
  await expect(page.getByTestId('readout')).toContainText(/Hz [+−]?\d+\.\d dB .* m long, \d+\.\d\d ms, [A-G]♯?\d/)
  await page.mouse.click(box.x + box.width * 0.4, box.y + 80)
  await page.mouse.move(box.x + box.width * 0.6, box.y + 80)
  await expect(page.getByTestId('readout')).toContainText(/oct from \d+/)
})

test('takes are renamed, coloured, duplicated, deleted and brought back', async ({ page }) => {
  await openDemo(page)
  await measure(page, 'main-l/rear')
  await page.getByTestId('take').click()
  await expect(cell(page, 'main-l/rear')).toHaveAttribute('data-state', 'fresh')
  const first = page.locator('[data-take]').first()
  await first.getByRole('button', { name: /^More of/ }).click()
  await first.getByLabel('Name of the take').fill('Before the treatment')
  await page.keyboard.press('Enter')
  await first.getByLabel('Note').fill('doors open')
  await page.keyboard.press('Enter')
  await expect(first).toContainText('Before the treatment')
  await first.getByLabel('Colour 4').click()
  await first.getByLabel('Level offset').fill('-3')
  await page.keyboard.press('Enter')
  await first.getByRole('button', { name: 'Duplicate' }).click()
  await expect(page.locator('[data-take]').filter({ hasText: 'Before the treatment copy' })).toBeVisible()
  await first.getByRole('button', { name: 'Delete' }).click()
  await expect(page.locator('[data-take]')).toHaveCount(1)
  await page.getByRole('button', { name: 'Restore' }).click()
  await expect(page.locator('[data-take]')).toHaveCount(2)
  await page.reload()
  await cell(page, 'main-l/rear').click()
  await expect(page.locator('[data-take]').filter({ hasText: 'doors open' })).toHaveCount(2)
})

test('curves from anywhere come in, are averaged and compared, and go out again without loss', async ({ page }) => {
  await openDemo(page)
  const importing = page.getByLabel('Import a measurement')
  const text = (level: number) => ({
    name: `Level ${level}.txt`,
    mimeType: 'text/plain',
    buffer: Buffer.from(
      `* made elsewhere\nFreq (kHz);Mag `
      + `(dB)\n${[0.02, 0.1, 1, 5, 20].map(f => `${`${f}`.replace('.', ',')};${level},0`).join('\n')}`,
    ),
  })
  await cell(page, 'balcony/mix').click()
  await importing.setInputFiles(text(-6))
  await expect(cell(page, 'balcony/mix')).toHaveText('1')
  await cell(page, 'balcony/row-1').click()
  await importing.setInputFiles(text(6))
  await expect(cell(page, 'balcony/row-1')).toHaveText('1')
  await cell(page, 'balcony/mix').click({ modifiers: ['Shift'] })
  await choose(page, 'Curves in view', 'average of levels')
  await page.getByRole('button', { name: 'Keep the average as a take' }).click()
  await expect(page.locator('[data-take]')).toHaveCount(2)
  const made = page.locator('[data-take]').filter({ hasText: 'average of levels of 2' })
  await made.getByRole('button', { name: /^More of/ }).click()
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    act(made, 'Export', 'text: frequency, dB, phase, coherence'),
  ])
  const curve = readCurveText(readFileSync(await file.path(), 'utf8'))
  curve.level.forEach(v => expect(Math.abs(v)).toBeLessThan(1e-4)) // −6 and +6
  await choose(page, 'Curves in view', 'difference of two')
  await expect(page.getByRole('button', { name: 'Keep the difference as a take' })).toBeVisible()
  await importing.setInputFiles({
    name: 'broken.txt',
    mimeType: 'text/plain',
    buffer: Buffer.from('100 1\n200 zwei'),
  })
  await told(page, 'error', 'Line 2: “zwei” is not a number')
  await importing.setInputFiles({ name: 'broken.wav', mimeType: 'audio/wav', buffer: Buffer.from('RIFF') })
  await told(page, 'error', 'not a WAV')
})

test('an impulse response and a recording come in as WAV, the response goes out as it was', async ({ page }) => {
  await openDemo(page)
  await cell(page, 'foyer/mix').click()
  const response = Float32Array.from({ length: 4096 }, (_, n) =>
    n < 100 ? 0 : Math.exp(-(n - 100) / 200) * Math.sin(n),
  )
  await page
    .getByLabel('Import a measurement')
    .setInputFiles({
      name: 'room.wav',
      mimeType: 'audio/wav',
      buffer: Buffer.from(writeWav({ sampleRate: 48_000, channels: [response] })),
    })
  const take = page.locator('[data-take]').filter({ hasText: 'room' })
  await take.getByRole('button', { name: /^More of/ }).click()
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    act(take, 'Export', 'WAV, impulse response, 32-bit float'),
  ])
  expect(readWav(new Uint8Array(readFileSync(await file.path()))).channels[0]).toEqual(response)
  const x = new Float32Array(5 * 48_000)
  pinkNoise(48_000, 3)(x)
  const reference = x.map(v => v * 0.1)
  await page
    .getByLabel('Import a measurement')
    .setInputFiles({
      name: 'recording.wav',
      mimeType: 'audio/wav',
      buffer: Buffer.from(
        writeWav({ sampleRate: 48_000, channels: [reference.map((_, n) => reference[n - 480] ?? 0), reference] }),
      ),
    })
  await expect(page.locator('[data-take]').filter({ hasText: 'reference on channel 2' })).toBeVisible()
})

test('the microphone is calibrated with a calibrator, and refuses to be without one', async ({ page }) => {
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await choose(page, 'Chart 3', 'Sound level')
  await page.getByTestId('listen-only').click()
  await expect(page.getByTestId('level')).toContainText('dBFS (A)')
  await page.getByRole('button', { name: 'Settings of Sound level' }).click()
  await expect(async () => {
    // the first spectrum may still be on its way
    await page.getByRole('button', { name: '94 dB' }).click()
    await expect(page.locator('[data-notice="error"]')).toContainText('No calibrator is heard', { timeout: 500 })
  }).toPass()
  await choose(page, 'In the hall', 'Calibrator on the microphone (94 dB, 1 kHz)')
  await expect(page.getByTestId('level')).toContainText(/−2\d\.\d\s*dBFS/)
  await page.waitForFunction(() => document.querySelector('[data-testid="level"]')?.textContent?.includes('−26'))
  await page.getByRole('button', { name: 'Settings of Sound level' }).click()
  // the spectrum comes once a second: pressed before, it still says that no calibrator is heard
  await expect(async () => {
    await page.getByRole('button', { name: '94 dB' }).click()
    await expect(page.locator('[data-notice="info"]')).toContainText(/0 dBFS is 1(19|20)\.\d dB/, { timeout: 1000 })
  }).toPass()
  await expect(page.getByTestId('level')).toContainText(/9[34]\.\d\s*dB\(A\)/)
})

test('the microphone’s own response is taken out, and a trim lets the trace sit at 0 dB', async ({ page }) => {
  await openDemo(page)
  await measure(page, 'main-l/mid')
  await expect(page.getByTestId('trust')).toContainText(/2\d blocks/)
  await page.getByRole('button', { name: 'Normalise to 0 dB' }).click()
  const trim = Number(
    (await page.getByLabel('Trim, for viewing only').inputValue()).replace('−', '-').replace(' dB', ''),
  )
  expect(Math.abs(trim)).toBeGreaterThan(1)
  await page.getByRole('button', { name: 'Settings of Microphone 1' }).click()
  await page
    .getByLabel('Microphone correction')
    .setInputFiles({ name: 'mic 7.txt', mimeType: 'text/plain', buffer: Buffer.from('20 6\n20000 6') })
  await told(page, 'info', 'mic 7.txt')
  await page.getByRole('button', { name: 'Reset average' }).click()
  await expect(page.getByTestId('trust')).not.toContainText(/2\d blocks/)
  await expect(page.getByTestId('trust')).toContainText(/2\d blocks/)
  await page.getByRole('button', { name: 'Normalise to 0 dB' }).click()
  await expect
    .poll(
      async () =>
        Number(
          (await page.getByLabel('Trim, for viewing only').inputValue()).replace('−', '-').replace(' dB', ''),
        ) - trim,
    )
    .toBeGreaterThan(5) // 6 dB less is measured
  await page.getByText(/Interface correction/).click()
  await page.getByRole('button', { name: 'Store this as interface correction' }).click()
  // a hall has no coherence of 1
  await told(page, 'error', 'This is no loopback')
  await page.getByRole('button', { name: 'Remove', exact: true }).click()
  await page
    .getByLabel('Microphone correction')
    .setInputFiles({ name: 'nothing.txt', mimeType: 'text/plain', buffer: Buffer.from('hello') })
  await told(page, 'error', 'at least two lines')
})

test('a chart is saved as SVG and PNG', async ({ page }) => {
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await page
    .getByLabel('Import a measurement')
    .setInputFiles({ name: 'plain.txt', mimeType: 'text/plain', buffer: Buffer.from('20 0\n1000 3\n20000 -3') })
  await expect(page.locator('[data-take]').filter({ hasText: 'plain' })).toBeVisible()
  await page.getByRole('button', { name: 'Settings of Magnitude' }).click()
  const [svg] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'SVG' }).click(),
  ])
  expect(svg.suggestedFilename()).toContain('Main L at Mix desk')
  const drawing = readFileSync(await svg.path(), 'utf8')
  expect(drawing).toMatch(/<svg[^>]+viewBox/)
  expect(drawing).toContain('dB, microphone over reference')
  const [png] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'PNG' }).click(),
  ])
  expect(
    readFileSync(await png.path())
      .subarray(1, 4)
      .toString(),
  ).toBe('PNG')
})

test('findings say what is wrong, in words, with the evidence a click away', async ({ page }) => {
  await openDemo(page)
  await cell(page, 'main-l/mid').click()
  await choose(page, 'In the hall', 'Mains hum on the microphone line')
  await page.getByTestId('listen-only').click()
  await expect(page.locator('[data-finding="hum"]')).toContainText(/50, 100/)
  await page.locator('[data-finding="hum"]').click()
  await expect(page.locator('[data-chart="Spectrum"]')).toBeVisible()
  await choose(page, 'In the hall', 'Empty hall')
  await page.getByTestId('noise').click()
  await expect(page.getByTestId('arrivals')).toContainText(/0\.0\d/)
  await expect(page.locator('[data-finding="hum"]')).toBeHidden()
  await type(page, 'Delay removed (ms, samples, m, ft)', '8 m')
  await expect(page.locator('[data-finding="moved"]')).toContainText('find the arrival again')
  await page.getByRole('button', { name: 'Find arrival' }).click()
  await expect(page.locator('[data-finding="moved"]')).toBeHidden()
})

test('three microphones are measured at once, each with its own arrival, and one Take keeps them all', async ({
  page,
  site,
}) => {
  await openDemo(page)
  await addMicrophone(page, 2, 'Mid house')
  await addMicrophone(page, 3, 'Rear')
  await measure(page, 'main-l/mix')
  await expect(page.getByTestId('trust')).toContainText(/2\d blocks/)
  await page.getByTestId('take').click()
  // the lowest octave of all three is waited for, however slow the machine
  for (const position of ['mix', 'mid', 'rear'])
    await expect(cell(page, `main-l/${position}`)).toHaveAttribute('data-state', 'fresh', { timeout: 45_000 })
  const takes = await site.takes()
  const delay = (position: string) =>
    takes.filter(t => t.source === 'main-l' && t.position === position).at(-1)!.timing.delay
  expect(delay('mix') - delay('mid')).toBeCloseTo((13.42 - 8.85) / 343.2, 3) // distances of the plan
})
