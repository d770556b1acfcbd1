import type { Page } from '@playwright/test'
import { contentOf, type Sheet } from '../core/documents'
import type { Band, Limiter, Pass } from '../core/rig'
import { agree, act, area, cell, choose, expect, openDemo, test, told, type } from './pages'

const sheetOf = async (site: { documents: () => Promise<Readonly<Record<string, unknown>>> }, id: string) =>
  contentOf(await site.documents(), 'sheet', id) as Sheet | undefined

async function openSheets(page: Page) {
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await page.getByRole('button', { name: 'All sheets' }).click()
  await expect(page.getByTestId('sheet-plate')).toBeVisible()
}

/** A data sheet as it is typed: a column of cells a band, 42 values. */
const paper = [
  ['Low', '55', '2k', '98', '8', '600', '-1', '.35', '+', 'BW24 50', 'LR24 1k2',
    '160 -3 1.4', '410 -2.5 3', '900 1.5 2', '', 'r 65 50 500'],
  ['High', '650', '19k', '108', '16', '90', '-6', '0', '+', 'LR24 1k2', '',
    '3150 -4 2.2', 'hs 9k 3 .7', '', 'p 45 1 80'],
]
/** Values in a cell: words, a family with its slope for two. */
const valuesIn = (cell: string) =>
  cell.split(' ').filter(Boolean).reduce((n, word) => n + (/^(BW|LR|BE)\d+$/.test(word) ? 2 : 1), 0)

test('a data sheet of 40 values is typed by keyboard alone: its characters and one key a value', async ({
  page, site,
}) => {
  await openSheets(page)
  await act(page, 'Sheets', 'New, two bands')
  const plate = page.getByTestId('sheet-plate')
  await plate.getByLabel('Low band: Band').press('ControlOrMeta+a')
  let keys = 0
  let digits = 0
  let values = 0
  for (const text of paper.flat()) {
    if (text) await page.keyboard.type(text)
    await page.keyboard.press('Enter')
    keys += text.length + 1
    digits += text.replaceAll(' ', '').length
    values += valuesIn(text)
  }
  expect(values).toBeGreaterThanOrEqual(40)
  expect(keys).toBeLessThanOrEqual(digits + values)
  await expect(page.getByTestId('sheet-checks')).toHaveText('No problems found.')
  await plate.getByRole('button', { name: 'Save sheet' }).click()
  await expect.poll(async () => (await sheetOf(site, 'own-1'))?.bands.map(b => b.name)).toEqual(['Low', 'High'])
  const [low, high] = (await sheetOf(site, 'own-1'))!.bands
  expect(low).toMatchObject({ low: 55, high: 2000, sensitivity: 98, impedance: 8, power: 600 })
  expect(low!.needs).toMatchObject({
    gain: -1,
    highPass: { family: 'butterworth', order: 4, frequency: 50 },
    lowPass: { family: 'linkwitz-riley', order: 4, frequency: 1200 },
    limiter: { detector: 'rms', threshold: 65, attack: 0.05, release: 0.5 },
  })
  expect(low!.needs!.delay).toBeCloseTo(0.35e-3, 9)
  expect(low!.needs!.eq.map(f => [f.frequency, f.gain, f.q])).toEqual([[160, -3, 1.4], [410, -2.5, 3], [900, 1.5, 2]])
  expect(high!.needs!.eq[1]).toEqual({ type: 'high-shelf', frequency: 9000, gain: 3, q: 0.7 })
})

test('slips are told while they are typed; what is not understood stays, with the reason', async ({ page }) => {
  await openSheets(page)
  const plate = page.getByTestId('sheet-plate')
  const pass = plate.getByLabel('High band: High-pass')
  await pass.fill('LR18 1400')
  await pass.press('Enter')
  await expect(plate.getByRole('alert')).toContainText('12, 24, 36 or 48 dB an octave')
  await expect(pass).toHaveValue('LR18 1400')
  await pass.fill('')
  await pass.press('Enter')
  await expect(page.getByTestId('sheet-checks')).toContainText('High band has no high-pass')
  await plate.getByRole('button', { name: 'Revert' }).click()
  await expect(pass).toHaveValue('LR24 1400')
  await expect(page.getByTestId('sheet-checks')).toHaveText('No problems found.')
})

test('outputs follow a sheet: an edit of it reaches them all and only them, and one undo takes it back', async ({
  page, site,
}) => {
  const pass = async (n: number) => (await site.value('processor', `/outputs/${n}/lowPass`))[0] as Pass
  await openDemo(page)
  for (const source of ['main-l', 'main-r']) {
    await cell(page, `${source}/mix`).click()
    await area(page, 'Shape')
    await choose(page, 'Loudspeaker sheet', 'Low band: Two-way top, 12 inch, two amplifier channels')
    await expect(page.getByTestId('departures')).toContainText('As the sheet says')
  }
  // the filters that were there are the output's own, and its limiter stands at the sheet's volts at the loudspeaker
  await expect.poll(async () => (await site.value('processor', '/outputs/0/eq/0'))[0] as Band)
    .toMatchObject({ on: true, frequency: 160 })
  const limiter = async () => (await site.value('processor', '/outputs/0/limiter'))[1] as Limiter
  const volts = async () => Math.SQRT2 * 89 * 10 ** ((await limiter()).threshold / 20)
  await expect.poll(volts).toBeGreaterThan(55)
  expect(await volts()).toBeLessThanOrEqual(60)
  await page.getByRole('button', { name: 'Open the sheet' }).click()
  await expect(page.getByTestId('sheet-reach')).toContainText('System processor, output 1 (Main L)')
  await expect(page.getByTestId('sheet-reach')).toContainText('System processor, output 3 (Main R)')
  const field = page.getByLabel('Low band: Low-pass')
  await field.fill('LR24 1250')
  await field.press('Enter')
  await page.getByRole('button', { name: 'Save sheet' }).click()
  await told(page, 'info', 'set in 2 outputs')
  await expect.poll(async () => [(await pass(0)).frequency, (await pass(2)).frequency]).toEqual([1250, 1250])
  expect((await pass(4)).frequency).toBe(120)
  await page.keyboard.press('z')
  await expect.poll(async () => [(await pass(0)).frequency, (await pass(2)).frequency]).toEqual([1400, 1400])
  expect((await sheetOf(site, 'top-12-active'))!.bands[0]!.needs!.lowPass!.frequency).toBe(1400)
  // what is set otherwise since is told, and put back
  await page.getByRole('button', { name: 'Charts', exact: true }).click()
  const corner = page.getByLabel('Low-pass frequency')
  await corner.fill('1100')
  await corner.press('Enter')
  await agree(page) // the horn’s corner goes down with it
  await expect(page.getByTestId('departures')).toHaveText('Not as the sheet says: Low-pass.')
  await page.getByRole('button', { name: 'Restore from sheet' }).click()
  await agree(page)
  await expect(page.getByTestId('departures')).toContainText('As the sheet says')
  await page.getByRole('button', { name: 'Detach' }).click()
  await expect(page.getByTestId('departures')).toHaveCount(0)
  expect((await pass(2)).frequency).toBe(1400)
})

test('a sheet leaves as a text table and comes back; a broken file says where', async ({ page }) => {
  await openSheets(page)
  const saved = page.waitForEvent('download')
  await act(page, 'Sheets', 'Save as text table')
  const path = await (await saved).path()
  const plate = page.getByTestId('sheet-plate')
  await plate.getByLabel('From a file').setInputFiles(path)
  await expect(plate.getByText('not saved yet')).toBeVisible()
  await expect(plate.getByLabel('Low band: Low-pass')).toHaveValue('LR24 1400')
  const buffer = Buffer.from('kovrin loudspeaker sheet\t1\nname\tLow\nlow\tdeep\n')
  await plate.getByLabel('From a file').setInputFiles({ name: 'broken.txt', mimeType: 'text/plain', buffer })
  await told(page, 'error', 'Line 3')
})

test('a group adds to its outputs what counts besides their own, and takes it back when it goes', async ({
  page, site,
}) => {
  const gains = () => Promise.all([0, 2].map(async n => (await site.value('processor', `/outputs/${n}/gain`))[1]))
  await site.edit('processor', '/outputs/2/gain', 0, -4, { live: true })
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await page.getByRole('button', { name: 'Groups: none' }).click()
  const groups = page.getByTestId('groups')
  await groups.getByRole('button', { name: 'New group' }).click()
  await groups.getByLabel('System processor, output 1 (Main L)').check()
  await groups.getByLabel('System processor, output 3 (Main R)').check()
  await type(page, 'Group 1 gain', '-3')
  await expect.poll(gains).toEqual([-3, -7])
  await type(page, 'Group 1 filter 1', '315 -2 1')
  await expect.poll(async () => ((await site.value('processor', '/outputs/2/eq/0'))[1] as Band).frequency).toBe(315)
  await expect(page.getByTestId('departures')).toContainText('In Group 1.')
  await groups.getByRole('button', { name: 'Remove the group' }).click()
  await expect.poll(gains).toEqual([0, -4])
  await page.keyboard.press('z')
  await expect.poll(gains).toEqual([-3, -7])
})
