import { allOf, contentOf } from '../core/documents'
import { writeKindFile } from '../core/rig'
import { runDevice } from '../standins/device/device'
import { ropewalkDevices } from '../standins/ropewalk/devices'
import { area, choose, expect, openDemo, test, told, type } from './pages'

test('a rig grows: devices of a kind, cables many at once, names; and one is taken away again', async ({
  page, site,
}) => {
  await openDemo(page)
  await area(page, 'Rig')
  const before = allOf(await site.documents(), 'device').length
  await page.getByRole('button', { name: 'Add devices' }).click()
  const dialog = page.getByRole('dialog')
  await choose(page, 'Kind', 'Amplifier, 4 channels, with processing')
  await type(page, 'How many', '6')
  await type(page, 'Name', 'Rack amp')
  await expect(dialog).toContainText('Rack amp 1, Rack amp 2')
  await dialog.getByRole('button', { name: 'Add', exact: true }).click()
  await expect(dialog).toBeHidden()
  await expect.poll(async () => allOf(await site.documents(), 'device').length).toBe(before + 6)
  // a kind that stands in a file: what is none is refused with the reason
  await page.getByRole('button', { name: 'Add devices' }).click()
  const kind = dialog.getByLabel('Kind from a file')
  await kind.setInputFiles({ name: 'x.json', mimeType: 'application/json', buffer: Buffer.from('{"format":1}') })
  await expect(dialog.getByRole('alert')).toContainText('does not describe a device kind: format')
  const capability = { ...ropewalkDevices[3]!.capability, model: 'Tallow Quay 2' }
  const buffer = Buffer.from(writeKindFile(capability))
  await kind.setInputFiles({ name: 'k.json', mimeType: 'application/json', buffer })
  await expect(dialog).toContainText('Tallow Quay 2: 2 in, 2 out')
  await dialog.getByRole('button', { name: 'Add', exact: true }).click()
  const ofFile = async () => allOf(await site.documents(), 'device').find(d => d.name === 'Tallow Quay 2')
  await expect.poll(async () => (await ofFile())?.capability).toEqual(capability)
  const added = allOf(await site.documents(), 'device').filter(d => d.name.startsWith('Rack amp'))
  expect(added.map(d => d.capability.outputs.length)).toEqual(Array(6).fill(4))
  // nothing is connected to them, and that is said
  await expect(page.locator(`[data-device="${added[0]!.id}"]`)).toHaveAttribute('data-link', /searching|lost/)

  // cables by their two ends, many at once; what cannot be is refused with the reason
  await choose(page, 'From', /System processor/)
  await choose(page, 'To', 'Rack amp 1')
  await type(page, 'Outputs', '13-16')
  await type(page, 'Inputs', '1-3')
  await page.getByRole('button', { name: 'Connect', exact: true }).click()
  await expect(page.getByRole('alert')).toContainText('4 outputs cannot go to 3 inputs')
  await type(page, 'Inputs', '1-4')
  await page.getByRole('button', { name: 'Connect', exact: true }).click()
  await expect(page.locator(`[data-cable="${added[0]!.id}:3"]`)).toContainText('Output 16')
  const channels = async () => {
    const { cables } = contentOf(await site.documents(), 'wiring')!
    return [0, 1, 2, 3].map(n => cables[`${added[0]!.id}:${n}`]?.channel)
  }
  await expect.poll(channels).toEqual([12, 13, 14, 15])
  await type(page, 'Inputs', '5')
  await page.getByRole('button', { name: 'Connect', exact: true }).click()
  await expect(page.getByRole('alert')).toContainText('There is no channel 5 here')
  await page.locator(`[data-cable="${added[0]!.id}:3"]`).getByRole('button').click()
  await expect(page.locator(`[data-cable="${added[0]!.id}:3"]`)).toBeHidden()

  await type(page, 'Name of Rack amp 1', 'Flown left')
  await expect.poll(async () => contentOf(await site.documents(), 'device', added[0]!.id)?.name).toBe('Flown left')
  await page.getByRole('button', { name: 'More for Flown left', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Duplicate' }).click()
  await expect.poll(async () => allOf(await site.documents(), 'device').map(d => d.name)).toContain('Flown left 2')
  await page.getByRole('button', { name: 'More for Flown left', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Remove …' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Remove' }).click()
  await expect(page.locator(`[data-device="${added[0]!.id}"]`)).toBeHidden()
  await expect.poll(async () => contentOf(await site.documents(), 'device', added[0]!.id)).toBeUndefined()
  const after = await site.documents()
  expect(Object.keys(contentOf(after, 'wiring')!.cables).filter(k => k.startsWith(added[0]!.id))).toEqual([])
  // one gesture: all of it comes back
  await page.keyboard.press('Control+z')
  await told(page, 'info', /Undone/)
  await expect(page.locator(`[data-device="${added[0]!.id}"]`)).toBeVisible()
  await expect(page.locator(`[data-cable="${added[0]!.id}:2"]`)).toBeVisible()
})

test('a device that nobody has seen before is added by its address, shows what it is, and is driven', async ({
  page, site,
}, info) => {
  const made = ropewalkDevices.find(d => d.id === 'amp-c')!
  const device = await runDevice(made, info.outputPath())
  try {
    await openDemo(page)
    await area(page, 'Rig')
    await page.getByRole('button', { name: 'Add devices' }).click()
    const dialog = page.getByRole('dialog')
    await choose(page, 'Kind', /Other, as it answers/)
    await type(page, 'Name', 'Hired amp')
    await type(page, 'Address', `127.0.0.1:${device.port}`)
    await dialog.getByRole('button', { name: 'Add', exact: true }).click()
    const row = page.locator('tr', { has: page.getByRole('textbox', { name: 'Name of Hired amp' }) })
    // no address is connected to before somebody says so
    await row.getByRole('button', { name: `Connect to 127.0.0.1:${device.port}` }).click()
    await expect(row).toContainText('in sync')
    await expect(row).toContainText('2 in, 2 out, 96 kHz')
    await row.getByRole('button', { name: 'Channels of Hired amp' }).click()
    const plate = page.getByTestId('device-plate')
    await expect(plate).toContainText(made.capability.model)
    await expect(plate.locator('[data-strip="outputs/1"]')).toContainText('0.0 dB')
    await plate.locator('[data-strip="outputs/1"] tr').first().click()
    await expect(page.getByTestId('shape-inspector')).toContainText('Hired amp, output 2')
    // somebody turns it at its front
    await device.turn('default', '/outputs/1/gain', -12)
    await expect(plate.locator('[data-strip="outputs/1"]')).toContainText('\u221212.0 dB')
    // and what is set here is in the device
    const id = allOf(await site.documents(), 'device').find(d => d.name === 'Hired amp')!.id
    expect((await site.edit(id, '/outputs/1/gain', -12, -20, { live: true })).status).toBe(200)
    await expect.poll(async () => (await device.settings('default'))['/outputs/1/gain']).toBe(-20)
    await expect(plate.locator('[data-strip="outputs/1"]')).toContainText('\u221220.0 dB')
    // the page stands in the address, and comes back with it
    await page.reload()
    await expect(plate).toContainText(made.capability.model)
    device.close()
    await expect(plate).toContainText('offline')
  }
  finally { device.close() }
})

test('devices are searched for at addresses and on the network; one that answers is taken into the rack', async ({
  page, site,
}, info) => {
  const made = ropewalkDevices.find(d => d.id === 'amp-c')!
  const device = await runDevice(made, info.outputPath())
  try {
    await openDemo(page)
    await area(page, 'Rig')
    await page.getByRole('button', { name: 'Add devices' }).click()
    const dialog = page.getByRole('dialog')
    const search = dialog.getByRole('button', { name: 'Search' })
    await type(page, 'Where to search', '10.0.0.1-254')
    await search.click()
    await expect(dialog.getByRole('alert')).toContainText('Name the port')
    // nobody is there but this one: 254 addresses are asked, and given up
    await type(page, 'Where to search', `127.0.0.1-254:${device.port}`)
    await search.click()
    await expect(dialog.locator('[data-found]')).toHaveCount(1)
    // the simulated devices of this machine tell of themselves
    await type(page, 'Where to search', '')
    await search.click()
    await expect(dialog.locator('[data-found]').filter({ hasText: 'Ropewalk processor' }).first()).toBeVisible()
    await type(page, 'Where to search', `127.0.0.1:${device.port}`)
    await search.click()
    await expect(dialog.locator('[data-found]')).toHaveCount(1)
    await dialog.getByRole('button', { name: `Add ${made.name}` }).click()
    await expect(dialog).toBeHidden()
    const address = `127.0.0.1:${device.port}`
    const added = async () => allOf(await site.documents(), 'device').find(d => d.address === address)
    await expect.poll(async () => (await added())?.capability.model).toBe(made.capability.model)
    const { id } = (await added())!
    await expect(page.locator(`[data-device="${id}"]`)).toHaveAttribute('data-link', 'live')
  }
  finally { device.close() }
})

test('a device and the site differ: whose stays is chosen; presets, a locked front, showing itself', async ({
  page, site,
}, info) => {
  const made = ropewalkDevices.find(d => d.id === 'amp-a')!
  const device = await runDevice(made, info.outputPath())
  const held = async (path: string) => (await device.settings('default'))[path]
  const ends: (() => void)[] = []
  try {
    await openDemo(page)
    await area(page, 'Rig')
    await page.getByRole('button', { name: 'Add devices' }).click()
    await choose(page, 'Kind', 'Amplifier, 4 channels, with processing')
    await type(page, 'Name', 'Spare amp')
    await page.getByRole('dialog').getByRole('button', { name: 'Add', exact: true }).click()
    await expect.poll(async () => allOf(await site.documents(), 'device').some(d => d.name === 'Spare amp')).toBe(true)
    const { id } = allOf(await site.documents(), 'device').find(d => d.name === 'Spare amp')!
    // planned with nothing connected, while the device itself was turned by somebody else
    for (const [path, value] of [['/outputs/0/gain', -6], ['/outputs/1/gain', -3], ['/inputs/2/mute', true]] as const)
      await site.edit(id, path, undefined, value)
    await device.turn('default', '/outputs/0/gain', -20)
    await type(page, 'Address of Spare amp', `127.0.0.1:${device.port}`)
    await page.getByRole('button', { name: `Connect to 127.0.0.1:${device.port}` }).click()
    await told(page, 'info', /Spare amp is connected; 3 settings differ/)
    await page.getByRole('button', { name: 'Compare with Spare amp' }).click()
    const compare = page.getByTestId('compare')
    await expect(compare).toContainText('3 settings differ')
    await expect(compare.locator('[data-setting="/outputs/0/gain"]')).toContainText(/−20.0 dB.*−6.0 dB.*louder/s)
    // nothing was overwritten before the choice
    expect([await held('/outputs/0/gain'), await held('/inputs/2/mute')]).toEqual([-20, undefined])
    await compare.getByRole('button', { name: 'Keep mine: Mute' }).click()
    await expect.poll(() => held('/inputs/2/mute')).toBe(true)
    await expect(compare).toContainText('2 settings differ')
    await compare.getByRole('button', { name: 'Keep the device’s: all settings' }).click()
    await expect(compare).toBeHidden()
    expect(await site.value(id, '/outputs/0/gain')).toEqual([-20, -20])
    expect(await held('/outputs/1/gain')).toBeUndefined()

    // a preset: kept, recalled after the list of what it changes, and taken back
    const presets = page.getByTestId('presets')
    await expect(presets).toContainText('As delivered')
    await type(page, 'Keep settings of now as', 'Speech')
    await presets.getByRole('button', { name: 'Keep', exact: true }).click()
    await expect(presets.locator('[data-preset="1"]')).toBeVisible()
    await device.turn('default', '/outputs/0/gain', -26)
    await expect.poll(() => site.value(id, '/outputs/0/gain')).toEqual([-26, -26])
    await presets.getByRole('button', { name: 'Recall … Speech' }).click()
    const dialog = page.getByRole('dialog')
    await expect(dialog).toContainText(/1 setting changes.*−26.0 dB.*−20.0 dB.*louder/s)
    await dialog.getByRole('button', { name: 'Recall', exact: true }).click()
    await expect.poll(() => held('/outputs/0/gain')).toBe(-20)
    await expect(presets.locator('[data-preset="1"]')).toContainText('recalled last')
    await page.keyboard.press('Control+z')
    await expect.poll(() => held('/outputs/0/gain')).toBe(-26)
    await presets.getByRole('button', { name: 'Remove Speech …' }).click()
    await page.getByRole('dialog').getByRole('button', { name: 'Remove' }).click()
    await expect(presets.locator('[data-preset="1"]')).toBeHidden()

    const front = page.getByTestId('front')
    await front.getByRole('button', { name: 'Show itself' }).click()
    await expect(front.getByRole('button', { name: 'Stop showing itself' })).toBeVisible()
    expect(await device.identifying('default')).toBe(true)
    await front.getByText('Levels only').click()
    await expect.poll(() => device.turn('default', '/outputs/0/delay', 0.01).then(() => 'turned', () => 'locked'))
      .toBe('locked')
    await type(page, 'Name in the device', 'Flown left')
    await expect.poll(async () => contentOf(await site.documents(), 'housekeeping', id)?.name).toBe('Flown left')
    device.close()
    await expect(page.getByTestId('device-plate')).toContainText('offline')
    await expect(front).toBeHidden()
    await expect(presets.getByRole('button', { name: 'Recall … As delivered' })).toBeDisabled()

    // it is broken: a spare of its kind takes its place, and what was set stays to be put into it
    const spare = await runDevice(made, info.outputPath('spare'))
    ends.push(spare.close)
    await spare.turn('default', '/outputs/3/gain', -30)
    await page.getByRole('button', { name: 'All devices' }).click()
    await page.getByRole('button', { name: 'More for Spare amp' }).click()
    await page.getByRole('menuitem', { name: 'Replace with a spare …' }).click()
    await type(page, 'Address of the spare', `127.0.0.1:${spare.port}`)
    await page.getByRole('dialog').getByRole('button', { name: 'Replace', exact: true }).click()
    await page.getByRole('button', { name: `Connect to 127.0.0.1:${spare.port}` }).click()
    await page.getByRole('button', { name: 'Compare with Spare amp' }).click()
    await expect(compare).toContainText('3 settings differ')
    await compare.getByRole('button', { name: 'Keep mine: all settings' }).click()
    await page.getByRole('dialog').getByRole('button', { name: 'Apply' }).click()
    await expect(compare).toBeHidden()
    expect(await spare.settings('default')).toEqual({ '/outputs/0/gain': -26, '/inputs/2/mute': true })
  }
  finally {
    device.close()
    for (const end of ends) end()
  }
})
