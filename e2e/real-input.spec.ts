import { chromium, type Browser } from '@playwright/test'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chromiumArgs } from '../playwright.config'
import type { SiteAnswer } from '../core/contract'
import type { Take } from '../core/documents'
import { decodeTake } from '../core/formats/take'
import { applySections, filterInPlace, magnitude, peaking, pinkNoise, unity } from '../core/dsp'
import { cell, choose, expect, openDemo, test, told, type } from './pages'
import { stereoWav } from './wav'

const rate = 44_100
const delay = 321
const gain = 0.5
const filter = peaking(1000, 6, 1.4, rate)

/** Channel 1: microphone, channel 2: reference; periodic, so that the file may loop. */
function recording(): string {
  const length = rate * 8
  const noise = new Float32Array(length)
  pinkNoise(rate, 33)(noise)
  const twice = Float64Array.from(
    { length: 2 * length },
    (_, n) => noise[(n - delay + 2 * length) % length]! * 0.1 * gain,
  )
  filterInPlace(twice, [filter])
  const file = join(mkdtempSync(join(tmpdir(), 'kovrin-e2e-')), 'capture.wav')
  writeFileSync(
    file,
    stereoWav(
      Float32Array.from(twice.subarray(length)),
      noise.map(v => v * 0.1),
      rate,
    ),
  )
  return file
}

const launch = (args: string[]): Promise<Browser> =>
  chromium.launch({ executablePath: '/usr/bin/chromium', args: [...chromiumArgs, ...args] })
const openWith = async (browser: Browser, options: { permissions?: string[] } = {}) => {
  const page = await (
    await browser.newContext({
      baseURL: process.env.KOVRIN_URL!,
      viewport: { width: 1280, height: 800 },
      ...options,
    })
  ).newPage()
  await openDemo(page)
  await cell(page, 'main-l/rear').click()
  await choose(page, 'Sound from', 'This computer’s inputs')
  return page
}

test('a known system on this computer’s inputs is measured within 0.1 dB', async ({ site }) => {
  const browser = await launch([
    '--use-fake-ui-for-media-stream',
    '--use-fake-device-for-media-stream',
    `--use-file-for-fake-audio-capture=${recording()}`,
  ])
  const page = await openWith(browser)
  await choose(page, 'Reference channel', 'channel 1')
  await expect(page.locator('[data-measurement]')).toHaveAttribute('data-state', 'refused')
  await expect(page.locator('[data-measurement]')).toContainText('Microphone and reference are the same channel')
  await expect(page.getByTestId('listen')).toBeDisabled()
  await choose(page, 'Reference channel', 'channel 2')
  await choose(page, 'Averaging', '16 blocks')
  await page.getByTestId('listen').click()
  await expect(page.getByTestId('trust')).toContainText('16 blocks')
  await expect(page.getByTestId('arrival')).toContainText(((1000 * delay) / rate).toFixed(2)) // 7.28 ms
  const kept = async () => (await site.takes()).filter(t => t.source === 'main-l' && t.position === 'rear')
  /** Takes what is measured; gives the most that it is off in dB. */
  async function takeOff(count: number): Promise<number> {
    await page.getByTestId('take').click()
    await expect.poll(async () => (await kept()).length).toBe(count)
    const take = (await kept()).at(-1)!
    expect(take.info.sampleRate).toBe(rate)
    expect(Math.abs(take.timing.delay - delay / rate)).toBeLessThan(1e-5)
    const { curve } = decodeTake(await (await site.request.get(`${site.path}/takes/${take.id}/data`)).body())
    const truth = unity(curve.frequencies)
    applySections(truth, [filter], rate)
    const [got, want] = [magnitude(curve), magnitude(truth)]
    const off = got.map((v, k) => Math.abs(v - want[k]! - 20 * Math.log10(gain)))
    return off.reduce((most, v, k) => (curve.frequencies[k]! > 20 && curve.frequencies[k]! < 20_000
      ? Math.max(most, v)
      : most), 0)
  }
  // a browser whose machine is starved drops sound: then that take is off, and the next is not
  let off = await takeOff(1)
  for (let n = 2; n < 4 && off >= 0.1; n++) {
    await page.getByRole('button', { name: 'Reset average' }).click()
    await expect(page.getByTestId('trust')).toContainText(/\b1 blocks?/)
    await expect(page.getByTestId('trust')).toContainText('16 blocks')
    off = await takeOff(n)
  }
  expect(off).toBeLessThan(0.1)
  // the same signal as a loopback: kept as the interface's own response it is taken out, and a flat line at 0
  // dB is left
  await page.getByText(/Interface correction/).click()
  await page.getByRole('button', { name: 'Store this as interface correction' }).click()
  await told(page, 'info', 'is taken out from now on')
  await expect(page.getByTestId('trust')).toContainText('16 blocks')
  await page.getByRole('button', { name: 'Normalise to 0 dB' }).click()
  await expect(page.getByLabel('Trim, for viewing only')).toHaveValue(/^[+−]?0\.[01] dB$/)
  await browser.close()
})

test('a site without devices measures this computer’s inputs: no rack judges it, and a take is kept', async ({
  request,
}) => {
  const made = await request.post('/api/sites', { data: { from: 'template', template: 'club', name: 'Own club' } })
  const { id } = (await made.json()) as { id: string }
  const documents = async () => ((await (await request.get(`/api/sites/${id}`)).json()) as SiteAnswer).documents
  expect(Object.keys(await documents()).filter(key => key.startsWith('device/'))).toEqual([])
  const browser = await launch([
    '--use-fake-ui-for-media-stream',
    '--use-fake-device-for-media-stream',
    `--use-file-for-fake-audio-capture=${recording()}`,
  ])
  const context = await browser.newContext({ baseURL: process.env.KOVRIN_URL!, viewport: { width: 1280, height: 800 } })
  const page = await context.newPage()
  await page.goto(`/sites/${id}`)
  await cell(page, 'source-1/position-1').click()
  await expect(page.getByLabel('Sound from')).toContainText('This computer’s inputs')
  await expect(page.getByLabel('Reference input')).toContainText('unknown')
  await choose(page, 'Averaging', '16 blocks')
  await page.getByTestId('listen').click()
  await expect(page.getByTestId('trust')).toContainText('16 blocks')
  await expect(page.getByTestId('arrival')).toContainText(((1000 * delay) / rate).toFixed(2))
  for (const finding of ['unfed', 'plan']) await expect(page.locator(`[data-finding="${finding}"]`)).toHaveCount(0)
  await page.getByTestId('take').click()
  await expect(cell(page, 'source-1/position-1')).toHaveAttribute('data-state', 'fresh')
  const takes = Object.entries(await documents()).filter(([key]) => key.startsWith('take/'))
  expect(takes.map(([, take]) => (take as Take).snapshot)).toEqual([null])
  await browser.close()
})

test('the reference can be Kovrin’s own noise, played out of a chosen output', async () => {
  const browser = await launch([
    '--use-fake-ui-for-media-stream',
    '--use-fake-device-for-media-stream',
    `--use-file-for-fake-audio-capture=${recording()}`,
  ])
  const page = await openWith(browser)
  await choose(page, 'Reference channel', 'Kovrin’s own signal')
  await page.getByTestId('listen').click()
  await page.getByTestId('noise').click()
  await expect(page.getByRole('meter', { name: 'Reference: Kovrin’s own signal level' })).toHaveAttribute(
    'aria-valuenow',
    '-20',
  )
  await expect(page.getByRole('meter', { name: /channel 1 level/ })).not.toHaveAttribute('aria-valuenow', '-80')
  await page.keyboard.press('.')
  await expect(page.getByRole('meter', { name: 'Reference: Kovrin’s own signal level' })).toHaveAttribute(
    'aria-valuenow',
    '-80',
  )
  await browser.close()
})

test('permission refused and no device are said in words, and the page goes on', async () => {
  const refusing = await launch(['--use-fake-device-for-media-stream', '--deny-permission-prompts'])
  const page = await openWith(refusing)
  await page.getByTestId('listen').click()
  await expect(page.getByTestId('input-trouble')).toContainText('may not use the microphone')
  await choose(page, 'Sound from', 'Simulated interface (no gear needed)')
  await page.getByTestId('noise').click()
  await expect(page.getByTestId('noise-state')).toContainText('Noise')
  await refusing.close()
  const bare = await launch(['--use-fake-ui-for-media-stream'])
  const empty = await openWith(bare)
  await empty.getByTestId('listen').click()
  await expect(empty.getByTestId('input-trouble')).toContainText('has no sound input')
  await bare.close()
})

test('an input pulled out while running is said, what was measured stays, and listening goes on when '
  + 'it is back', async () => {
  const browser = await launch([
    '--use-fake-ui-for-media-stream',
    '--use-fake-device-for-media-stream',
    `--use-file-for-fake-audio-capture=${recording()}`,
  ])
  const page = await openWith(browser)
  await page.getByTestId('listen').click()
  await expect(page.getByTestId('trust')).toBeVisible()
  // Chromium has no door to pull its fake device: the list of devices is emptied as the browser would on
  // unplugging, and the same event fires
  await page.evaluate(() => {
    const real = navigator.mediaDevices.enumerateDevices.bind(navigator.mediaDevices)
    const state = window as unknown as { pulled: boolean }
    state.pulled = true
    navigator.mediaDevices.enumerateDevices = async () => (state.pulled ? [] : real())
    navigator.mediaDevices.dispatchEvent(new Event('devicechange'))
  })
  await expect(page.getByTestId('input-trouble')).toContainText('was unplugged')
  await expect(page.getByTestId('trust')).toBeVisible()
  await page.evaluate(() => {
    ;(window as unknown as { pulled: boolean }).pulled = false
    navigator.mediaDevices.dispatchEvent(new Event('devicechange'))
  })
  await expect(page.getByTestId('input-trouble')).toBeHidden()
  await expect(page.getByTestId('trust')).toBeVisible()
  await browser.close()
})

test('microphone and reference come from two devices, each opened, known by name, and treated as '
  + 'two clocks', async () => {
  const browser = await launch([
    '--use-fake-ui-for-media-stream',
    '--use-fake-device-for-media-stream',
    `--use-file-for-fake-audio-capture=${recording()}`,
  ])
  const page = await openWith(browser)
  await page.getByTestId('listen').click() // the browser names its devices once it may use them
  await expect(page.getByTestId('trust')).toBeVisible()
  await page.getByTestId('listen').click()
  await choose(page, 'Microphone channel', 'channel 1', 'Fake Audio Input 1')
  await choose(page, 'Reference channel', 'channel 2', 'Fake Audio Input 2')
  await page.getByTestId('listen').click()
  await expect(page.getByTestId('input-trouble')).toBeHidden()
  for (const meter of [/Fake Audio Input 1, channel 1 level/, /Reference: Fake Audio Input 2, channel 2 level/])
    await expect(page.getByRole('meter', { name: meter })).not.toHaveAttribute('aria-valuenow', '-80')
  await page.getByTestId('inputs').click()
  await expect(page.getByLabel('Name of Fake Audio Input 2')).toBeVisible()
  await type(page, 'Name of Fake Audio Input 2', 'Loop box')
  await expect(page.getByText('Reference: Loop box, channel 2')).toBeVisible()
  await page.reload()
  await expect(page.getByText('Reference: Loop box, channel 2')).toBeVisible()
  await browser.close()
})
