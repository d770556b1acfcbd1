import { expect, test } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { area, cell, openDemo, type } from './pages'

const site = '/api/sites/ropewalk-hall'
const edit = { path: '/outputs/5/gain', old: 0, new: -3, live: false }

test('bad requests are answered with what was wrong and what is allowed, and store nothing', async ({
  request,
}) => {
  const post = async (path: string, data: unknown) => {
    const answer = await request.post(path, { data: data as object })
    return [answer.status(), (await answer.json()).message as string] as const
  }
  const before = await (await request.get(site)).json()
  expect(await post(`${site}/devices/processor/edits`, { ...edit, new: 99 })).toEqual([
    422,
    expect.stringContaining('−80.0 dB to +12.0 dB is allowed'),
  ])
  expect(await post(`${site}/devices/processor/edits`, { ...edit, path: '/outputs/77/gain' })).toEqual([
    422,
    expect.stringContaining('no output 78'),
  ])
  expect(await post(`${site}/devices/processor/edits`, { ...edit, old: -42 })).toEqual([
    409,
    expect.stringContaining('changed meanwhile'),
  ])
  expect(await post(`${site}/devices/processor/edits`, { path: 3 })).toEqual([
    400,
    expect.stringMatching(/path: .*old: /),
  ])
  expect(await post(`${site}/devices/toaster/edits`, edit)).toEqual([
    404,
    expect.stringContaining('device “toaster”'),
  ])
  expect(await post('/api/sites/nowhere/devices/processor/edits', edit)).toEqual([
    404,
    expect.stringContaining('nowhere'),
  ])
  expect(await post(`${site}/takes`, { not: 'bytes' })).toEqual([400, expect.stringContaining('head')])
  expect((await request.get(`${site}/takes/no-such-take/data`)).status()).toBe(404)
  expect((await request.get(`${site}/history?limit=zero`)).status()).toBe(400)
  expect(
    (
      await request.post(`${site}/devices/processor/edits`, {
        data: edit,
        headers: { origin: 'http://elsewhere.example' },
      })
    ).status(),
  ).toBe(403)
  expect(
    (
      await request.fetch(`${site}/devices/processor/edits`, {
        method: 'POST',
        data: '{"half',
        headers: { 'content-type': 'application/json' },
      })
    ).status(),
  ).toBe(400)
  expect(await (await request.get(site)).json()).toEqual(before)
})

test('a take whose settings moved on is refused whole', async ({ request }) => {
  const { encodeTake } = await import('../core/formats/take')
  const curve = {
    frequencies: Float64Array.from([100, 200, 400]),
    re: new Float64Array(3).fill(1),
    im: new Float64Array(3),
    coherence: null,
  }
  const bytes = encodeTake({ curve, impulse: new Float32Array(8) })
  const body = (revisions: Record<string, number>) => {
    const info = {
      method: 'live',
      input: 'test',
      sampleRate: 48_000,
      length: 1024,
      blocks: 4,
      delay: 0,
      arrival: null,
      microphoneLevel: null,
      referenceLevel: null,
      impulseStart: 0,
      revisions,
    }
    const head = Buffer.from(JSON.stringify({ source: 'delay-l', position: 'rear', info }))
    const size = Buffer.alloc(4)
    size.writeUInt32LE(head.length)
    return Buffer.concat([size, head, bytes])
  }
  const send = (data: Buffer) =>
    request.post(`${site}/takes`, { data, headers: { 'content-type': 'application/octet-stream' } })
  const old = await send(body({ 'processor': -1, 'amp-b': -1 }))
  expect(old.status()).toBe(409)
  expect((await old.json()).message).toContain('System processor and Amplifier B')
  expect((await send(body({}).subarray(0, 60))).status()).toBe(400)
  const { devices } = (await (await request.get(site)).json()) as { devices: { id: string, revision: number }[] }
  const kept = await send(body(Object.fromEntries(devices.map(d => [d.id, d.revision]))))
  expect(kept.status()).toBe(201)
  const { id } = await kept.json()
  expect(Buffer.from(await (await request.get(`${site}/takes/${id}/data`)).body())).toEqual(Buffer.from(bytes))
})

test('two browsers: an edit in one shows in the other, and an edit against an older value is refused', async ({
  page,
  browser,
  request,
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
  const late = await request.post(`${site}/devices/processor/edits`, {
    data: { path: '/outputs/1/gain', old: -2, new: -8, live: false },
  })
  expect(late.status()).toBe(409)
  expect((await late.json()).data).toEqual({ value: 0 })
  await other.context().close()
})

test('a device pulled away is felt and shown, keeps the draft, and is back in step when it returns', async ({
  page,
}) => {
  await openDemo(page)
  await cell(page, 'main-r/mid').click()
  await area(page, 'Shape')
  process.kill(
    Number(readFileSync(join(process.env.KOVRIN_DATA!, 'standins/processor.json.pid'), 'utf8')),
    'SIGKILL',
  )
  await expect(page.getByTestId('devices')).toContainText('System processor: lost')
  await type(page, 'Gain', '-4')
  await expect(page.locator('[data-notice="warn"]').filter({ hasText: 'kept as a draft' })).toBeVisible()
  await expect(page.getByTestId('unsent')).toContainText('1 unsent')
  await area(page, 'Rig')
  await expect(page.locator('[data-device="processor"]')).toHaveAttribute('data-link', 'lost')
  await expect(page.getByTestId('devices')).toContainText('4 of 4 devices in step')
  await expect(page.locator('[data-device="processor"]')).toContainText('0.0 dB → −4.0 dB')
  await page.getByRole('button', { name: 'Send all' }).click()
  await expect(page.getByTestId('unsent')).toBeHidden()
  await area(page, 'Watch')
  await expect(page.getByRole('cell', { name: /System processor is lost/ })).toBeVisible()
  await area(page, 'Shape')
  await type(page, 'Gain', '0')
})
