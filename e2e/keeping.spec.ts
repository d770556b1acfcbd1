import { readFileSync } from 'node:fs'
import { allOf } from '../core/documents'
import { area, cell, expect, measure, openDemo, test, told } from './pages'

test('a site is deleted for good, after one question, and comes back from its backup with all that it had', async ({
  page,
  site,
}) => {
  await site.edit('processor', '/outputs/3/gain', 0, -4, {}, 'Ann')
  const before = await site.get()
  await page.goto('/')
  const row = page.locator(`[data-site="${site.id}"]`)
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    row.getByRole('link', { name: 'Back up' }).click(),
  ])
  const backup = readFileSync(await download.path())
  await row.getByRole('button', { name: 'Delete' }).click()
  await expect(row).toBeHidden()
  expect(await site.edit('processor', '/outputs/3/gain', -4, -5)).toMatchObject({ status: 404 })
  expect((await site.post('/leases', { what: 'Solo' })).status).toBe(404)
  expect((await site.request.get(`${site.path}/history`)).status()).toBe(404)
  const rename = { edits: [{ document: 'site', path: '/name', old: 'Ropewalk Hall test', new: 'x' }] }
  expect(await site.post('/changes', rename)).toMatchObject({ status: 404 })
  await page.getByRole('button', { name: /^Deleted sites/ }).click()
  const deleted = page.locator(`[data-deleted="${site.id}"]`)
  await deleted.getByRole('button', { name: 'Delete Ropewalk Hall test for good' }).click()
  const dialog = page.getByRole('dialog', { name: 'Delete for good?' })
  await dialog.getByRole('button', { name: 'Cancel' }).click()
  await expect(dialog).toBeHidden()
  await expect(deleted).toBeVisible()
  await deleted.getByRole('button', { name: 'Delete Ropewalk Hall test for good' }).click()
  await dialog.getByRole('button', { name: 'Delete for good' }).click()
  await expect(deleted).toBeHidden()
  await expect(page.getByRole('button', { name: 'Restore', exact: true })).toHaveCount(0)
  expect((await site.request.get(`/api/backup?site=${site.id}`)).status()).toBe(404)

  const pick = (buffer: Buffer) =>
    page.getByLabel('Restore a backup').setInputFiles({ name: 'it.gz', mimeType: 'application/gzip', buffer })
  await pick(backup.subarray(0, backup.length - 200))
  await told(page, 'error', 'cut short')
  await pick(backup)
  // what it would change is said before anything is
  const asked = page.getByRole('dialog', { name: 'Restore this backup?' })
  await expect(asked).toContainText(/Ropewalk Hall test comes back/)
  await asked.getByRole('button', { name: 'Restore', exact: true }).click()
  await told(page, 'info', '1 site is back')
  await expect(row).toBeVisible()
  const after = await site.get()
  expect(after.documents['settings/processor']).toEqual(before.documents['settings/processor'])
  const history = await (await site.request.get(`${site.path}/history`)).json()
  expect(history.changes.some((c: { who: string, new: unknown }) => c.who === 'Ann' && c.new === -4)).toBe(true)
})

test('a deleted take is brought back, or goes for good', async ({ page, site }) => {
  await openDemo(page)
  await measure(page, 'main-l/rear')
  await expect(page.getByTestId('trust')).toContainText(/\d\d blocks/)
  await page.getByTestId('take').click()
  await expect(cell(page, 'main-l/rear')).toHaveAttribute('data-state', 'fresh')
  const [take] = await site.takes()
  await page.getByRole('button', { name: `More of ${take!.name}` }).click()
  const remove = page.locator(`[data-take="${take!.id}"]`).getByRole('button', { name: 'Delete', exact: true })
  await remove.click()
  await page.getByRole('button', { name: 'Deleted takes (1)' }).click()
  await page.getByRole('button', { name: `Restore ${take!.name}` }).click()
  await expect(cell(page, 'main-l/rear')).toHaveAttribute('data-state', 'fresh')
  await page.getByRole('button', { name: `More of ${take!.name}` }).click()
  await remove.click()
  await page.getByRole('button', { name: `Delete ${take!.name} for good` }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Delete for good' }).click()
  await expect(page.getByRole('button', { name: /^Deleted takes/ })).toBeHidden()
  expect(allOf(await site.documents(), 'take')).toEqual([])
  expect((await site.request.get(`${site.path}/takes/${take!.id}/data`)).status()).toBe(404)
  const history = JSON.stringify(await (await site.request.get(`${site.path}/history`)).json())
  expect(history).not.toContain(take!.name)
})

test('Kovrin connects to no address that nobody at this machine has confirmed', async ({ page, site }) => {
  const { address } = (await site.documents())['device/amp-c'] as { address: string }
  const edits = [{ document: 'device/amp-c', path: '/address', old: address, new: '10.255.0.1:4001' }]
  await openDemo(page)
  expect((await site.post('/changes', { edits })).status).toBe(200)
  await area(page, 'Rig')
  const device = page.locator('[data-device="amp-c"]')
  await expect(device).toHaveAttribute('data-link', 'unconfirmed')
  await expect(device).toContainText('10.255.0.1:4001 is in a private network. Nobody at this machine has confirmed it')
  expect(await site.post('/devices/amp-c/confirm', { address: '10.255.0.2:1' })).toMatchObject({ status: 409 })
  await device.getByRole('button', { name: 'Connect to 10.255.0.1:4001' }).click()
  await expect(device).toHaveAttribute('data-link', 'searching')
})

test('a backup of everything is made by one button, read back, and told by the health', async ({ page, site }) => {
  await page.goto('/')
  await page.getByRole('button', { name: 'Back up now' }).click()
  await told(page, 'info', 'read back and is whole')
  await expect(page.getByTestId('backup-age')).toContainText(/The newest is from .*read back and whole/)
  const { backup, disk } = await (await site.request.get('/api/health')).json()
  expect(backup.hours).toBeLessThan(1)
  expect(disk.backups).toBeGreaterThan(0)
  await page.getByRole('button', { name: 'How it is kept' }).click()
  await page.getByLabel('Folder of your own').fill('/nowhere/at/all')
  await page.getByLabel('Folder of your own').press('Enter')
  await told(page, 'error', 'cannot be written to “/nowhere/at/all”')
})
