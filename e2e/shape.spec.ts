import type { Page } from '@playwright/test'
import { contentOf } from '../core/documents'
import { writeWav } from '../core/formats/wav'
import type { Band } from '../core/rig'
import { act, agree, area, cell, choose, expect, measure, openDemo, test, told, type } from './pages'

const path = '/outputs/0/eq/0'
const handle = (page: Page, at = path) => page.locator(`[data-handle="${at}"]`)

test('a filter is taken hold of on the plate: dragged, widened, moved by keys; one drag is one undo', async ({
  page, site,
}) => {
  const draft = async () => (await site.value('processor', path))[0] as Band
  const before = await draft()
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await page.getByRole('radio', { name: 'Draft' }).click()
  const knob = handle(page)
  await expect(knob).toHaveAccessibleName('EQ band 1: 160 Hz, +4.0 dB, Q 1.20')
  const box = (await knob.boundingBox())!
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
  await page.mouse.move(x, y)
  await page.mouse.down()
  await page.mouse.move(x + 60, y + 50, { steps: 15 })
  await page.mouse.up()
  // all of the drag is stored: the draft is what the knob says
  await expect.poll(async () => {
    const { gain } = await draft()
    return gain < 0 && (await knob.getAttribute('aria-label'))?.includes(`${(-gain).toFixed(1)} dB`)
  }).toBe(true)
  const dragged = await draft()
  expect(dragged.frequency).toBeGreaterThan(300)
  expect(dragged.q).toBe(before.q)
  await expect(page.getByTestId('unsent')).toContainText('1 unsent')
  await page.mouse.wheel(0, 120)
  await expect.poll(async () => (await draft()).q).toBeLessThan(before.q)
  const { q } = await draft()
  await knob.focus()
  await page.keyboard.press('ArrowUp')
  await expect.poll(async () => (await draft()).gain).toBeCloseTo(dragged.gain + 1, 6)
  await page.keyboard.press('PageDown')
  await expect.poll(async () => (await draft()).q).toBeGreaterThan(q)
  await page.keyboard.press('Delete')
  await expect(knob).toHaveCount(0)
  // what is done within two seconds to one filter by keys and wheel is one step, the drag another
  for (let n = 0; n < 6 && JSON.stringify(await draft()) !== JSON.stringify(dragged); n++) {
    await page.keyboard.press('z')
    await told(page, 'info', 'EQ band 1')
    await page.getByRole('button', { name: 'Dismiss' }).last().click()
  }
  await page.keyboard.press('z')
  await expect.poll(draft).toEqual(before)
  // a high-pass by its corner
  const corner = handle(page, '/outputs/0/highPass')
  await corner.focus()
  await page.keyboard.press('ArrowRight')
  await expect(corner).toHaveAccessibleName(/High-pass: 63\.\d+ Hz/)
})

test('takes in view are fitted to a target; what is set is one step, and what is left has its reason', async ({
  page, site,
}) => {
  await openDemo(page)
  await measure(page, 'main-l/mix')
  await page.getByTestId('take').click()
  await expect(cell(page, 'main-l/mix')).toHaveAttribute('data-state', 'fresh')
  await page.getByTestId('noise').click()
  await area(page, 'Shape')
  await page.getByRole('radio', { name: 'Draft' }).click()
  await page.getByRole('button', { name: 'Fit to a target' }).click()
  const fit = page.getByTestId('fit')
  await type(page, 'Fit from', '80')
  await type(page, 'Fit to', '20')
  await fit.getByRole('button', { name: 'Fit to 1 take in view' }).click()
  await expect(fit).toContainText('range must end above its start')
  await type(page, 'Fit to', '700')
  await fit.getByRole('button', { name: 'Fit to 1 take in view' }).click()
  const said = fit.getByTestId('fit-error')
  await expect(said).toContainText('from the target now')
  const [before, after] = [...(await said.innerText()).matchAll(/([\d.]+) dB/g)].map(m => Number(m[1])) as number[]
  expect(after).toBeLessThan(before!)
  const held = await site.draft('processor')
  const count = await fit.getByRole('checkbox', { name: /Hz −.* Q/ }).count()
  expect(count).toBeGreaterThan(1)
  await fit.getByRole('checkbox', { name: /Hz −.* Q/ }).first().uncheck()
  await fit.getByRole('button', { name: 'Apply filters' }).click()
  await told(page, 'info', `${count - 1} filter`)
  await expect(page.getByRole('textbox', { name: 'Fit to' })).toHaveValue(/^700/)
  const bands = async () =>
    Object.entries(await site.draft('processor')).filter(([p, v]) => p.startsWith('/outputs/0/eq/') && (v as Band).on)
  await expect.poll(async () => (await bands()).length).toBe(1 + count - 1)
  for (const [, v] of await bands()) expect((v as Band).gain).toBeLessThanOrEqual(4)
  await page.getByRole('button', { name: 'Undo' }).last().click()
  await expect.poll(() => site.draft('processor')).toEqual(held)
})

test('filters go by the clipboard from a strip to one of another device, whose Q means something else', async ({
  page, site, context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await page.getByRole('radio', { name: 'Draft' }).click()
  await act(page, 'Filters', 'New filter')
  await type(page, 'EQ band 2 gain', '-6')
  await type(page, 'EQ band 2 Q', '1 oct')
  await act(page, 'Filters', 'Copy all as text')
  const text = await page.evaluate(() => navigator.clipboard.readText())
  expect(text.split('\n')[0]).toBe('number\tkind\tfrequency_hz\tgain_db\tq\tbandwidth_oct')
  expect(text).toContain('2\tpeaking\t250\t-6\t1.41')
  await page.locator('[data-block="amp-a-outputs-0"]').click()
  await expect(page.getByTestId('shape-inspector')).toContainText('Amplifier A (mains), output 1')
  await act(page, 'Filters', 'Paste filters')
  const set = async () => (await site.value('amp-a', '/outputs/0/eq/1'))[0] as Band
  await expect.poll(async () => (await set()).on).toBe(true)
  // the amplifier states the Q of the resonance: √(6 dB as a ratio) more for the same filter
  expect((await set()).q).toBeCloseTo(1.414 * 10 ** (6 / 40), 1)
  await page.evaluate(() => navigator.clipboard.writeText('Dear sound crew'))
  await act(page, 'Filters', 'Paste filters')
  await told(page, 'error', 'This is no list of filters')
  await act(page, 'Filters', 'Clear all filters')
  await expect.poll(async () => (await set()).on).toBe(false)
})

test('a new take says how far it lies from what the one before it foresaw', async ({ page, site }) => {
  await openDemo(page)
  await measure(page, 'main-l/mid')
  await expect(page.getByTestId('trust')).toContainText(/2\d blocks/)
  await page.getByTestId('take').click()
  await expect(cell(page, 'main-l/mid')).toHaveAttribute('data-state', 'fresh')
  await page.locator('[data-block="processor-inputs-0"]').click() // before the two bands part
  await type(page, 'EQ band 3 gain', '-8')
  await expect.poll(async () => ((await site.value('processor', '/inputs/0/eq/2'))[1] as Band).gain).toBe(-8)
  await expect(cell(page, 'main-l/mid')).toHaveAttribute('data-state', 'stale')
  await expect(page.getByTestId('trust')).toContainText(/2\d blocks/)
  await page.getByTestId('take').click()
  const said = page.locator('[data-notice="info"]').filter({ hasText: 'Predicted and measured differ by' })
  await expect(said).toBeVisible()
  expect(Number(/differ by ([\d.]+) dB/.exec((await said.textContent())!)![1])).toBeLessThanOrEqual(0.5)
})

test('a limiter is heard and seen to work, and says its threshold in volts where a loudspeaker hangs', async ({
  page, site,
}) => {
  await openDemo(page)
  await measure(page, 'main-l/mix')
  const heard = page.locator('[data-block="mic"]')
  const level = async () => Number(/level −(\d+) dBFS/.exec((await heard.textContent())!)?.[1])
  await expect.poll(level).toBeLessThan(30)
  const before = await level()
  await page.locator('[data-block="amp-a-outputs-0"]').click()
  await page.getByRole('button', { name: 'Limiter: off' }).click()
  await type(page, 'Limiter threshold', '-36')
  await expect(page.getByTestId('threshold')).toContainText('1.4 V at the loudspeaker, 0.25 W into 8 Ω.')
  await type(page, 'Limiter threshold', '2 V')
  await expect(page.getByLabel('Limiter threshold')).toHaveValue('−33.0 dB')
  await type(page, 'Limiter threshold', '-36')
  await expect(page.getByTestId('reduction')).toHaveCount(0)
  await page.getByLabel('Limiter on').check()
  await expect.poll(async () => ((await site.value('amp-a', '/outputs/0/limiter'))[1] as { on: boolean }).on).toBe(true)
  await expect(page.getByTestId('reduction')).toContainText(/takes away \d+\.\d dB now/)
  await expect.poll(level).toBeGreaterThan(before + 1) // the low band carries most of pink noise
  await page.getByRole('button', { name: 'Hush' }).click()
  await expect(page.getByTestId('reduction')).toContainText('takes nothing away now')
})

test('under Live a drag goes up 6 dB by itself and asks for the rest once, when it ends', async ({
  page, site,
}) => {
  const gain = async () => ((await site.value('processor', path))[1] as Band).gain
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  const pull = async () => {
    // it stands where the server says that it is
    await expect(handle(page)).toHaveAccessibleName('EQ band 1: 160 Hz, +4.0 dB, Q 1.20')
    const box = (await handle(page).boundingBox())!
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
    await page.mouse.move(x, y)
    await page.mouse.down()
    await page.mouse.move(x, y - 90, { steps: 20 })
    await expect.poll(gain).toBeCloseTo(10, 6)
    await expect(page.getByTestId('question')).toBeHidden()
    await page.mouse.up()
    await expect(page.getByTestId('rises')).toContainText(/Main L, low band: louder by \+8\.0 dB at 160 Hz/)
  }
  await pull()
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('question')).toBeHidden()
  expect(await gain()).toBeCloseTo(10, 6)
  await page.keyboard.press('z')
  await expect.poll(gain).toBe(4)
  await pull()
  await agree(page)
  await expect.poll(gain).toBe(12)
})

test('several filters move together, cuts become boosts, one key goes between two states', async ({
  page, site,
}) => {
  const band = async (n: number) => (await site.value('processor', `/outputs/0/eq/${n}`))[0] as Band
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await page.keyboard.press('x')
  await told(page, 'info', 'compared in Shape')
  await area(page, 'Shape')
  await page.getByRole('radio', { name: 'Draft' }).click()
  await page.keyboard.press('x')
  await told(page, 'info', 'stored as B')
  await act(page, 'Filters', 'New filter')
  await type(page, 'EQ band 2 frequency', '1000')
  await type(page, 'EQ band 2 gain', '-4')
  for (const n of [0, 1]) await handle(page, `/outputs/0/eq/${n}`).click({ modifiers: ['Shift'] })
  const box = (await handle(page, '/outputs/0/eq/1').boundingBox())!
  await page.mouse.move(box.x + 12, box.y + 12)
  await page.mouse.down()
  await page.mouse.move(box.x + 52, box.y + 32, { steps: 8 })
  await page.mouse.up()
  await expect.poll(async () => (await band(1)).frequency).toBeGreaterThan(1100)
  // the page shows at once where the drag ended; the server has it when its last step has come there
  const ended = await handle(page, '/outputs/0/eq/1').getAttribute('aria-label')
  const gain = Number(/, −([\d.]+) dB/.exec(ended!)![1])
  await expect.poll(async () => (await band(1)).gain).toBeCloseTo(-gain, 6)
  const [a, b] = [await band(0), await band(1)]
  expect(a.frequency / 160).toBeCloseTo(b.frequency / 1000, 2)
  expect(a.gain - 4).toBeCloseTo(b.gain + 4, 6)
  expect(b.gain).toBeLessThan(-4)
  await act(page, 'Filters', 'Invert gains')
  await expect.poll(async () => (await band(1)).gain).toBeCloseTo(-b.gain, 6)
  await page.locator('body').press('x')
  await expect.poll(async () => [(await band(0)).gain, (await band(1)).on]).toEqual([4, false])
  await page.locator('body').press('x')
  await expect.poll(async () => [(await band(0)).gain, (await band(1)).on]).toEqual([-a.gain, true])
})

test('the corners of a crossover move together while they are linked', async ({ page, site }) => {
  const pass = async (path: string) => ((await site.value('processor', path))[0] as { frequency: number }).frequency
  const corners = () => Promise.all([pass('/outputs/0/lowPass'), pass('/outputs/1/highPass')])
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await type(page, 'Low-pass frequency', '1600')
  await expect.poll(corners).toEqual([1600, 1600])
  await page.keyboard.press('z')
  await agree(page)
  await expect.poll(corners).toEqual([1400, 1400])
  // the question gave the focus back to the field: its note of the newer value keeps its place until the press is over
  await page.getByLabel('linked crossover with output 2 high-pass').uncheck()
  await type(page, 'Low-pass frequency', '1200')
  await expect.poll(corners).toEqual([1200, 1400])
})

test('a filter is taken out for a moment to hear what it does, and comes back', async ({ page, site }) => {
  const held = async () => ((await site.value('processor', path))[1] as Band).on
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await handle(page).focus()
  await act(page, 'Filters', 'Bypass selected')
  await expect.poll(held).toBe(false)
  await expect(page.getByTestId('shape-inspector')).toContainText('Output 1 is heard without EQ band 1, temporarily.')
  await page.getByRole('button', { name: 'Restore' }).click()
  await expect.poll(held).toBe(true)
  // the page goes while something is out: the server puts it back
  await handle(page).focus()
  await act(page, 'Filters', 'Bypass all')
  await expect.poll(held).toBe(false)
  await page.goto('about:blank')
  await expect.poll(held).toBe(true)
})

test('a target is made of points, moved on the plate, read from a file, and kept with the site', async ({
  page, site,
}) => {
  const own = async () => contentOf(await site.documents(), 'target', 'target-1')
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await page.getByRole('button', { name: 'Target: flat' }).click()
  const panel = page.getByTestId('target')
  await choose(panel, 'Target', 'tilt, 1 dB an octave down above 1 kHz')
  await act(panel, 'Targets', 'Edit a copy with points')
  await expect.poll(async () => (await own())?.name).toBe('tilt, own')
  await type(page, 'Point 1 level', '3')
  await expect.poll(async () => (await own())!.points[0]!.level).toBe(3)
  await panel.getByLabel('drawn on the magnitude').check()
  const knob = page.locator('[data-point="0"]')
  await knob.focus()
  await page.keyboard.press('ArrowUp')
  await expect.poll(async () => (await own())!.points[0]!.level).toBe(3.5)
  await type(page, 'Point 1 frequency', '90k')
  await told(page, 'error', '10 to 40000 Hz')
  const buffer = Buffer.from('frequency_hz,magnitude_db\n20,5\n200,0\n20000,-5\n')
  const file = { name: 'house.csv', mimeType: 'text/csv', buffer }
  await page.getByTestId('target-file').locator('input').setInputFiles(file)
  await expect.poll(async () => contentOf(await site.documents(), 'site')!.target).toBe('target-2')
  await panel.getByLabel('for Main L alone').check()
  await expect.poll(async () => contentOf(await site.documents(), 'source', 'main-l')!.target).toBe('target-2')
  await act(panel, 'Targets', 'Delete')
  await expect.poll(async () => contentOf(await site.documents(), 'source', 'main-l')!.target).toBeUndefined()
})

test('graphic EQ and coefficients are set; a file at another rate is refused', async ({ page, site }) => {
  await openDemo(page)
  await cell(page, 'main-l/mix').click()
  await area(page, 'Shape')
  await page.locator('[data-block="processor-inputs-0"]').click()
  await page.getByRole('button', { name: 'Graphic EQ: flat' }).click()
  await type(page, '125', '-4.2')
  await expect.poll(async () => ((await site.value('processor', '/inputs/0/graphic'))[1] as number[])[8]).toBe(-4)
  await page.locator('[data-block="processor-outputs-0"]').click()
  await page.getByRole('button', { name: 'FIR filter: off' }).click()
  const file = page.getByLabel('Read from text or WAV')
  const text = Buffer.from('0 0 0.5\n0.25 0.25 # end')
  await file.setInputFiles({ name: 'taps.txt', mimeType: 'text/plain', buffer: text })
  await expect.poll(async () => ((await site.value('processor', '/outputs/0/fir'))[1] as { taps: number[] }).taps)
    .toEqual([0, 0, 0.5, 0.25, 0.25])
  await expect(page.getByTestId('shape-inspector')).toContainText('5 of at most 1024 coefficients at 96 kHz')
  const wav = Buffer.from(writeWav({ sampleRate: 48_000, channels: [new Float32Array(8)] }))
  await file.setInputFiles({ name: 'taps.wav', mimeType: 'audio/wav', buffer: wav })
  await told(page, 'error', 'This file runs at 48 kHz, the device at 96 kHz')
})
