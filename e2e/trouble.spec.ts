import { area, cell, expect, measure, openDemo, test, told, type, madeTake } from './pages'

test('bad requests are answered with what was wrong and what is allowed, and store nothing', async ({
  request,
  site,
}) => {
  const says = async (data: unknown, path = `${site.path}/changes`) => {
    const answer = await request.post(path, { data: data as object })
    return [answer.status(), (await answer.json()).message as string] as const
  }
  const plain = { document: 'settings/processor', path: '/outputs/5/gain', old: 0, new: -3 }
  const edit = (change: object) => says({ edits: [{ ...plain, ...change }] })
  const before = await site.get()
  expect(await edit({ new: 99 })).toEqual([422, expect.stringContaining('−80.0 dB to +12.0 dB is allowed')])
  expect(await edit({ path: '/outputs/77/gain' })).toEqual([422, expect.stringContaining('/outputs/77/gain')])
  expect(await edit({ old: -42 })).toEqual([409, expect.stringContaining('changed meanwhile')])
  expect(await edit({ path: 3 })).toEqual([400, expect.stringMatching(/edits\.0\.path: /)])
  expect(await edit({ document: 'settings/toaster' })).toEqual([404, 'There is no such device any more.'])
  expect(await edit({ document: 'held/processor' })).toEqual([422, expect.stringContaining('device itself')])
  expect(await says([], `${site.path}/undo`)).toEqual([400, expect.stringContaining('must be an object')])
  const nowhere = await says({ edits: [plain] }, '/api/sites/nowhere/changes')
  expect(nowhere).toEqual([404, 'There is no such site.'])
  expect(await says({ not: 'bytes' }, `${site.path}/takes`)).toEqual([400, expect.stringContaining('head')])
  expect((await request.get(`${site.path}/takes/no-such-take/data`)).status()).toBe(404)
  expect((await request.get(`${site.path}/history?limit=zero`)).status()).toBe(400)
  const foreign = { data: { edits: [plain] }, headers: { origin: 'http://elsewhere.example' } }
  expect((await request.post(`${site.path}/changes`, foreign)).status()).toBe(403)
  const half = { method: 'POST', data: '{"half', headers: { 'content-type': 'application/json' } }
  expect((await request.fetch(`${site.path}/changes`, half)).status()).toBe(400)
  expect(await site.get()).toEqual(before)
})

test('a take whose settings moved on is refused whole', async ({ request, site }) => {
  const { bytes, body } = madeTake('subs', 'rear')
  const send = (data: Buffer) =>
    request.post(`${site.path}/takes`, { data, headers: { 'content-type': 'application/octet-stream' } })
  const { number } = await site.get()
  await site.edit('processor', '/outputs/4/gain', 0, -1, { live: true })
  const old = await send(body(number))
  expect(old.status()).toBe(409)
  expect((await old.json()).message).toContain('System processor')
  expect((await send(body(number).subarray(0, 60))).status()).toBe(400)
  const kept = await send(body((await site.get()).number))
  expect(kept.status()).toBe(201)
  const { id } = await kept.json()
  const read = await (await request.get(`${site.path}/takes/${id}/data`)).body()
  expect(Buffer.from(read)).toEqual(Buffer.from(bytes))
})

test('two browsers: an edit in one shows in the other, and an edit against an older value is refused', async ({
  page,
  browser,
  site,
}) => {
  await openDemo(page)
  await cell(page, 'main-r/mix').click()
  await area(page, 'Shape')
  const other = await (await browser.newContext()).newPage()
  await openDemo(other)
  await cell(other, 'main-r/mix').click()
  await area(other, 'Shape')
  await type(other, 'Gain', '-2')
  await expect(page.getByLabel('Gain', { exact: true })).toHaveValue('−2.0 dB')
  await type(page, 'Gain', '0')
  await expect(other.getByLabel('Gain', { exact: true })).toHaveValue('0.0 dB')
  const late = await site.edit('processor', '/outputs/2/gain', -2, -8)
  expect(late.status).toBe(409)
  expect(late.body.data).toMatchObject({ path: '/outputs/2/gain', value: 0 })
  await other.context().close()
})

test('what is opened while the server is away comes when it is back, without a reload', async ({
  page, context, site,
}) => {
  await openDemo(page)
  const loaded = await page.evaluate(() => performance.timeOrigin)
  await context.setOffline(true)
  await area(page, 'Align')
  await expect(page.locator('.frame > .plate').getByText('Opening …')).toBeVisible()
  await area(page, 'Site')
  await context.setOffline(false)
  await expect(page.locator('[data-plan="above"]')).toHaveAttribute('data-plot', /\d/)
  await area(page, 'Align')
  await expect(page.getByTestId('align-plate')).toBeVisible()
  expect(await page.evaluate(() => performance.timeOrigin)).toBe(loaded)
  // the list of sites and a site are asked for until they come
  await page.goto('/')
  const card = page.locator(`a[href="${site.page}"]`).first()
  await expect(card).toBeVisible()
  await context.setOffline(true)
  await card.click()
  const says = page.locator('main').getByRole('status')
  await expect(says).toContainText('does not answer. It is asked again every second.')
  await context.setOffline(false)
  await expect(page.getByTestId('devices')).toContainText('4 of 4 devices in sync')
  let away = true
  await page.route('**/api/sites', route => (away ? route.abort() : route.fallback()))
  await page.goto('/')
  await expect(page.getByText('does not answer')).toBeVisible()
  away = false
  await expect(card).toBeVisible()
  await expect(page.getByText('does not answer')).toBeHidden()
})

test('a take is kept once, though the server is away when it is made, or its answer is lost', async ({
  page, context, site,
}) => {
  await openDemo(page)
  await measure(page, 'main-l/mix')
  await context.setOffline(true)
  await page.getByTestId('take').click()
  await told(page, 'warn', 'The take waits for it: leave this page open.')
  await expect(page.locator('.offline')).toContainText('Takes not saved yet: 1.')
  expect(await site.takes()).toEqual([])
  await context.setOffline(false)
  await told(page, 'info', 'Saved “Main L · Mix desk”.')
  await expect(page.locator('.offline')).toBeHidden()
  await expect(page.getByText('The take waits')).toBeHidden()
  let lost = 0
  await page.route('**/takes', async (route) => {
    if (lost++) return route.fallback()
    await route.fetch()
    await route.abort()
  })
  await page.getByTestId('take').click()
  await told(page, 'info', 'Saved “Main L · Mix desk, take 2”.')
  expect(lost).toBeGreaterThan(1)
  expect(await site.takes()).toHaveLength(2)
})
