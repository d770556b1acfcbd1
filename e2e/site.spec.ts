import type { Page } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { contentOf } from '../core/documents'
import { area, cell, choose, expect, measure, openDemo, planOf, test, told, type } from './pages'

/** Milliseconds that the plate shows as arrival. */
const arrival = async (page: Page) =>
  Number(/([\d.]+)/.exec((await page.getByTestId('arrival').textContent()) ?? '')?.[1])

test('a new site from nothing to a live measurement, and a loudspeaker moved by 1 m arrives later by the '
  + 'right time', async ({
  page,
}) => {
  await page.goto('/')
  await page.getByRole('button', { name: 'New site' }).click()
  await choose(page, 'Devices', 'Simulated rack (no gear needed)')
  await page.getByRole('button', { name: 'An empty hall' }).click()
  await expect(page.getByTestId('devices')).toContainText('4 of 4 devices in sync')
  await area(page, 'Site')
  await type(page, 'Length', '24')
  await type(page, 'Width', '40 ft')
  await expect(page.getByRole('region', { name: 'Plate' })).toContainText('24 × 12.19 × 6 m')
  await choose(page, 'Floor', 'Carpet on felt')
  await page.getByLabel('Temperature').first().fill('22')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('region', { name: 'Plate' })).toContainText('345.1 m/s')
  await page.getByRole('button', { name: 'Add source' }).click()
  await expect(page.getByRole('heading', { name: 'Source', exact: true })).toBeVisible()
  // the new thing is to be named: what is typed at once goes to it
  await expect(page.getByLabel('Name')).toBeFocused()
  await page.keyboard.type('Stage left')
  await page.keyboard.press('Enter')
  await type(page, 'Along', '4')
  await type(page, 'Across', '6')
  await type(page, 'Height', '1.2')
  await type(page, 'Down-tilt', '0')
  await expect(page.getByTestId('boundary')).toContainText('low shelf')
  await page.getByRole('button', { name: 'Add position' }).click()
  await expect(page.getByRole('heading', { name: 'Position', exact: true })).toBeVisible()
  await type(page, 'Along', '14')
  await type(page, 'Across', '6')
  await area(page, 'Listen')
  await page.locator('[data-cell="source-1/position-1"]').click()
  // a new site shares the simulated devices: its first output may be fed already, or another be picked
  await expect(page.getByLabel('Path ribbon')).toContainText('Stage left')
  if (await page.getByTestId('path-finding').isVisible())
    await page.getByRole('button', { name: 'Feed only this' }).click()
  await page.getByTestId('noise').click()
  await expect(page.getByTestId('distance')).toContainText(/^10\.0\d m/)
  const near = await arrival(page)
  await area(page, 'Site')
  await page.mouse.click(...(await planOf(page))(4, 6))
  await expect(page.getByLabel('Name')).toHaveValue('Stage left')
  await type(page, 'Along', '3')
  await area(page, 'Listen')
  await expect(page.getByTestId('distance')).toContainText(/^11\.0\d m/)
  expect(Math.abs((await arrival(page)) - near - 1000 / 345.09)).toBeLessThan(0.03) // shown to 0.01 ms twice
  await page.getByTestId('take').click()
  await expect(page.locator('[data-cell="source-1/position-1"]')).toHaveAttribute('data-state', 'fresh')
  await area(page, 'Site')
  await type(page, 'Along', '5')
  await expect(page.locator('[data-cell="source-1/position-1"]')).toHaveAttribute('data-state', 'stale')
  await expect(page.getByRole('complementary', { name: 'Ledger' })).toContainText('Stage left was moved.')
})

test('a hall with slanting walls, a balcony and seats is drawn from a template and by hand, in feet if wanted', async ({
  page,
}) => {
  await page.goto('/')
  await page.getByRole('button', { name: 'New site' }).click()
  await choose(page, 'Devices', 'Simulated rack (no gear needed)')
  await page.getByRole('button', { name: 'Fan-shaped auditorium' }).click()
  await expect(page.getByTestId('devices')).toContainText('4 of 4 devices in sync')
  await area(page, 'Site')
  await expect(page.getByTestId('room')).toContainText('22 × 24 × 8 m')
  await expect(page.getByTestId('spread')).toContainText(/over \d+ places.*within \d+\.\d dB/)
  await type(page, 'Corner 2 across', '24') // the right half of the room goes, and with it what stands there
  // what cannot be built waits for the next corner, and is refused by nobody
  const waits = page.getByTestId('outline-waits')
  await expect(waits).toContainText('Not set yet: The room has a wall of no length')
  await waits.getByRole('button', { name: 'take back what was typed' }).click()
  await expect(waits).toBeHidden()
  await page.getByRole('button', { name: 'Add area' }).click()
  await expect(page.getByRole('heading', { name: 'Area', exact: true })).toBeVisible()
  await type(page, 'Name', 'Gallery')
  await choose(page, 'Kind', 'Balcony')
  await type(page, 'Floor, front', '10 ft')
  await type(page, 'Floor, back', '4')
  await type(page, 'Seat spacing', '1')
  await expect(page.getByTestId('seats')).toContainText(/^\s*\d+ places in \d+ rows\s*$/)
  await page.getByLabel('Positions', { exact: true }).fill('4')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Spread over the seats' }).click()
  await expect(page.getByRole('complementary', { name: 'Ledger' })).toContainText(/Gallery \d+-\d+/)
  await page.getByRole('button', { name: 'feet' }).click()
  await expect(page.getByLabel('Floor, front')).toHaveValue('10 ft')
  await page.getByRole('button', { name: 'Distances' }).click()
  await expect(page.getByTestId('around')).toContainText(/Centre.*stage wall 13\.1 ft/)
  await page.getByRole('button', { name: 'Air and decay' }).click()
  await expect(page.getByTestId('air')).toContainText('8000 Hz')
  await page.getByRole('button', { name: 'metres' }).click()
  await page.getByRole('button', { name: 'Room' }).click()
  await choose(page, 'Ceiling', 'Own absorption …')
  await type(page, '1000 Hz', '0.85')
  await expect(page.getByLabel('1000 Hz')).toHaveValue('0.85')
  await type(page, '2000 Hz', '1.2')
  await told(page, 'error', 'absorption')
})

test('a distance is measured in the plan, and a microphone takes a seat', async ({ page, site }) => {
  await openDemo(page)
  await area(page, 'Site')
  const at = await planOf(page)
  const rear = () => site.place('rear')
  await page.getByRole('button', { name: 'Measure a distance' }).click()
  await page.mouse.move(...at(3, 3))
  await page.mouse.down()
  await page.mouse.move(...at(13, 3), { steps: 4 })
  await page.mouse.up()
  await expect(page.getByTestId('measured')).toContainText(/^(9\.9\d|10\.0\d) m · 29\.\d\d ms/)
  await page.getByRole('button', { name: 'Measure a distance' }).click()
  await page.mouse.move(...at(26, 9))
  await page.mouse.down()
  await page.mouse.move(...at(15, 5), { steps: 5 })
  await page.mouse.move(...at(12.4, 4.4), { steps: 5 })
  await page.mouse.up()
  await expect.poll(rear).toEqual({ x: 12.5, y: 4.525, z: 1.2 })
  await expect(page.getByLabel('Row', { exact: true })).toHaveValue('8')
  await type(page, 'Row', '2')
  await expect.poll(async () => (await rear()).x).toBe(6.5)
  for (let n = 0; n < 2; n++) await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(rear).toEqual({ x: 26, y: 9, z: 1.2 })
})

test('dragging in the plan moves what is dragged, undo takes it back even after a reload', async ({
  page,
  site,
}) => {
  await openDemo(page)
  await area(page, 'Site')
  const at = await planOf(page)
  const mid = () => site.place('mid')
  await page.mouse.move(...at(11, 5))
  await page.mouse.down()
  await page.mouse.move(...at(12.5, 7), { steps: 5 })
  await page.mouse.move(...at(13, 8), { steps: 5 })
  await page.mouse.up()
  await expect.poll(async () => (await mid()).x).toBeGreaterThanOrEqual(12.5)
  await page.reload()
  await area(page, 'Site')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(mid).toEqual({ x: 11, y: 5, z: 1.2 })
  await page.getByRole('button', { name: 'Redo' }).click()
  await expect.poll(async () => (await mid()).x).toBeGreaterThanOrEqual(12.5)
  await page.getByRole('button', { name: 'Redo' }).click()
  await told(page, 'error', 'nothing left to redo')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(mid).toEqual({ x: 11, y: 5, z: 1.2 })
})

test('a plan that cannot be is refused with the reason, and the old one stays', async ({ page, site }) => {
  const before = await site.documents()
  const plan = contentOf(before, 'plan')!
  const source = contentOf(before, 'source', 'main-l')!
  const change = async (document: string, path: string, old: unknown, value: unknown) => {
    const { status, body } = await site.post('/changes', { edits: [{ document, path, old, new: value }] })
    return [status, body.message as string]
  }
  const place = source.elements[0]!.place
  expect(await change('source/main-l', '/elements/0/place', place, { x: 35, y: 3, z: 4 })).toEqual([
    422, expect.stringContaining('Main L at 35 / 3 / 4 m stands outside the room'),
  ])
  for (const x of [0, 5000]) {
    expect(await change('plan', '/room/size', plan.room.size, { ...plan.room.size, x })).toEqual([
      422, expect.stringContaining('length must be 1 to 300 m'),
    ])
  }
  const absorption = [0.1, 0.2, 1.4, 0.3, 0.3, 0.3, 0.3, 0.3]
  expect(await change('plan', '/room/surfaces/floor', plan.room.surfaces.floor, absorption)).toEqual([
    422, expect.stringContaining('surfaces.floor'),
  ])
  expect(await change('source/main-l', '/name', 'Something else', 'Main')).toEqual([
    409, expect.stringContaining('changed meanwhile'),
  ])
  // 5,000 m of delay
  expect(await change('settings/processor', '/outputs/0/delay', 0, 5000 / 343.2)).toEqual([
    422, expect.stringMatching(/delay.*out of range/i),
  ])
  expect((await page.request.post('/api/sites/nowhere/undo', { data: {} })).status()).toBe(404)
  expect(await site.documents()).toEqual(before)
  const complaints: string[] = []
  page.on('console', said => said.type() === 'error' && complaints.push(said.text()))
  await openDemo(page)
  await area(page, 'Site')
  await type(page, 'Length', '9')
  await told(page, 'error', 'outside the room')
  await expect(page.getByLabel('Length', { exact: true })).toHaveValue('31 m')
  expect(complaints).toEqual([]) // a value that is refused is nothing that went wrong
})

test('a site is duplicated with its takes, exported, deleted, brought back, and opened again from its file', async ({
  page,
  site,
}) => {
  await openDemo(page)
  await measure(page, 'main-l/rear')
  await expect(page.getByTestId('trust')).toContainText(/\d\d blocks/)
  await page.getByTestId('take').click()
  await expect(cell(page, 'main-l/rear')).toHaveAttribute('data-state', 'fresh')
  await page.goto('/')
  await page.locator(`[data-site="${site.id}"]`).getByRole('button', { name: 'Duplicate' }).click()
  await expect(cell(page, 'main-l/rear')).toHaveAttribute('data-state', 'fresh')
  const copy = /sites\/([^/?]+)/.exec(page.url())![1]!
  await page.goto('/')
  const row = page.locator(`[data-site="${copy}"]`)
  await expect(row.getByTestId('freshness')).toContainText(
    /^\d+ % of the ledger is fresh: \d+ fresh, \d+ stale, \d+ to do; \d+ takes?$/,
  )
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    row.getByRole('link', { name: 'Export' }).click(),
  ])
  const file = await download.path()
  const exported = JSON.parse(readFileSync(file, 'utf8'))
  expect(exported).toMatchObject({
    format: 'kovrin-site', version: 2, documents: { site: { name: 'Ropewalk Hall test copy' } },
  })
  const info = { name: 'Again', archived: false, deleted: false }
  const renamed = { ...exported, documents: { ...exported.documents, site: info } }
  await row.getByRole('button', { name: 'Delete' }).click()
  await expect(row).toBeHidden()
  await page.getByRole('button', { name: 'Restore', exact: true }).click()
  await expect(row).toBeVisible()
  await page
    .getByLabel('Open a site file')
    .setInputFiles({
      name: 'again.json',
      mimeType: 'application/json',
      buffer: Buffer.from(JSON.stringify(renamed)),
    })
  await expect(cell(page, 'main-l/rear')).toHaveAttribute('data-state', 'fresh')
  const again = await (await page.request.get(`/api/sites/${/sites\/([^/?]+)/.exec(page.url())![1]}/file`)).json()
  expect(again).toEqual(renamed) // nothing is lost on the way
  await page.goto('/')
  await page
    .getByLabel('Open a site file')
    .setInputFiles({
      name: 'broken.json',
      mimeType: 'application/json',
      buffer: Buffer.from('{"format":"kovrin-site"}'),
    })
  await told(page, 'error', 'says no version')
  await page
    .getByLabel('Open a site file')
    .setInputFiles({ name: 'notes.txt', mimeType: 'application/json', buffer: Buffer.from('hello') })
  await told(page, 'error', 'not JSON')
})

test('a source that no output drives says so, and leads to where its output is chosen', async ({ page, site }) => {
  const foyer = contentOf(await site.documents(), 'source', 'foyer')!
  const name = 'Fill of the long side gallery, behind the pillars of row 22'
  const made = { document: 'source/gallery', path: '', new: { ...foyer, id: 'gallery', name, order: 90 } }
  expect((await site.post('/changes', { edits: [made] })).status).toBe(200)
  await openDemo(page)
  await cell(page, 'gallery/mix').click()
  await expect(page.getByTestId('path-finding')).toHaveText(`Nothing drives ${name}.`)
  await expect(page.getByTestId('first-steps')).toContainText('choose its output')
  await area(page, 'Shape')
  await expect(page.getByText(/^Nothing drives .*choose its output in Site/)).toBeVisible()
  await page.getByRole('button', { name: 'Choose its output' }).click()
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue(name)
  await choose(page, 'Driven by', /Amplifier C.*2/)
  await expect(page.getByTestId('path-finding')).not.toContainText('Nothing drives')
})
