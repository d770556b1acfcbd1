import type { Page } from '@playwright/test'
import { isCombined } from '../core/documents'
import { area, cell, choose, expect, measure, openDemo, test, told, type } from './pages'

const plate = (page: Page) => page.getByTestId('align-plate')
/** A view of Align. */
const look = (page: Page, name: string) =>
  plate(page).getByRole('button', { name, exact: true })
    .or(plate(page).getByRole('radio', { name, exact: true })).click()
/** Edits from now on. */
const go = (page: Page, mode: 'Draft' | 'Live') =>
  page.getByRole('radio', { name: mode }).or(page.getByRole('button', { name: mode })).first().click()
/** Takes a source alone where the noise runs already. */
async function takeAlone(page: Page, id: string) {
  await cell(page, id).click()
  await page.getByRole('button', { name: 'Feed only this' }).click()
  await expect(page.getByTestId('path-finding')).toHaveCount(0)
  await page.getByRole('button', { name: 'Reset average' }).click()
  await expect(page.getByTestId('trust')).toContainText(/2\d blocks/)
  await page.getByTestId('take').click()
  await expect(cell(page, id)).toHaveText(/1/)
}
async function takeMain(page: Page) {
  await measure(page, 'main-l/mix')
  await expect(page.getByTestId('trust')).toContainText(/2\d blocks/)
  await page.getByTestId('take').click()
  await expect(cell(page, 'main-l/mix')).toHaveText(/1/)
}

test('a sub is brought to the mains from takes of each alone: tried, searched, set, taken back, proven', async ({
  page, site,
}) => {
  const delays = () => Promise.all([4, 5].map(async n => (await site.value('processor', `/outputs/${n}/delay`))[0]))
  await openDemo(page)
  await area(page, 'Align')
  await expect(plate(page)).toContainText('Nothing can be aligned yet')
  // what is not measured is told by the plan
  await expect(plate(page).locator('[data-arrivals="delay-l"]')).toContainText('plan')
  // and is timed by it: a fill farther off is brought to the mains before anything was measured
  await go(page, 'Draft')
  const inspector = page.getByTestId('align-inspector')
  await inspector.getByLabel('Balcony', { exact: true }).check()
  await inspector.getByRole('button', { name: 'Align times' }).click()
  await told(page, 'info', 'Balcony arrives with Main L')
  await page.keyboard.press('z')
  await told(page, 'info', /.+/)
  await go(page, 'Live')
  await area(page, 'Listen')
  await takeMain(page)
  await area(page, 'Align')
  await look(page, 'Pair')
  await expect(plate(page)).toContainText('One source is measured')
  await area(page, 'Listen')
  await takeAlone(page, 'subs/mix')
  await page.getByRole('button', { name: 'Hush' }).click()
  await area(page, 'Align')
  await go(page, 'Draft')
  await look(page, 'Times')
  await expect(plate(page).locator('[data-arrivals="main-l"]')).toContainText(/\d\d\.\d\d ms/)
  await expect(plate(page).locator('[data-arrivals="subs"]')).toContainText(/cannot tell|ms/)
  await look(page, 'Pair')
  await expect(plate(page).getByRole('heading', { name: 'Subs with Main L' })).toBeVisible()
  await type(page, 'Overlap from', '50')
  await type(page, 'Overlap to', '160')
  // by hand: the numbers follow the delay that is tried, and nothing is set
  const said = page.getByTestId('trial-told')
  const untried = await said.textContent()
  const hand = page.getByRole('slider', { name: 'Trial delay' })
  await hand.focus()
  await page.keyboard.press('End')
  await expect(hand).toHaveAttribute('aria-valuetext', /^\+/)
  const late = await said.textContent()
  await page.keyboard.press('Home')
  await expect(hand).toHaveAttribute('aria-valuetext', /^[-\u2212]/)
  // to a tenth of a decibel one of them may cost what none costs; both do not
  expect([late, await said.textContent()].some(text => text !== untried)).toBe(true)
  await page.keyboard.press('End')
  expect(await delays()).toEqual([0, 0])
  await choose(page, 'Also try', 'crossover corner')
  await plate(page).getByRole('button', { name: 'Find best sum' }).click()
  await expect(plate(page).locator('[data-chart="Sum over delay and corner"]')).toBeVisible()
  await choose(page, 'Also try', 'none')
  await plate(page).getByRole('button', { name: 'Find best sum' }).click()
  await expect(plate(page).locator('[data-chart="Sum over delay and corner"]')).toHaveCount(0)
  const best = page.getByTestId('candidates').locator('article').first()
  await expect(best).toContainText(/Summation loss \d+\.\d dB: Mix desk/)
  await expect(best).toContainText('±0.3 m cost')
  const before = await delays()
  await best.getByRole('button', { name: 'Apply to draft' }).click()
  await told(page, 'info', 'Subs is aligned to Main L')
  await expect(page.getByRole('textbox', { name: 'Overlap to' })).toHaveValue(/^160/)
  // what is set was the best: found again, nothing is left to be moved
  await expect(async () => {
    await plate(page).getByRole('button', { name: 'Find best sum' }).click()
    await expect(best).toContainText(/^[+−]?0\.0\d ms, polarity normal/, { timeout: 10_000 })
  }).toPass()
  await page.keyboard.press('z')
  await expect.poll(delays).toEqual(before)
  await go(page, 'Live')
  // both together on purpose: the take knows it, and is compared with what was foreseen
  await area(page, 'Listen')
  await page.getByTestId('noise').click()
  await cell(page, 'main-l/mix').click()
  await page.getByRole('button', { name: 'Also feed this' }).click()
  await expect(page.getByTestId('path-finding')).toContainText('Subs sounds too')
  // what was found before, while something else sounded or nothing, is no arrival of both
  await page.getByRole('button', { name: 'Find arrival' }).click()
  await expect(page.getByTestId('arrival')).toBeVisible()
  await page.getByRole('button', { name: 'Reset average' }).click()
  await expect(page.getByTestId('trust')).toContainText(/2\d blocks/)
  await page.getByTestId('take').click()
  // twenty blocks of three takes, down to where they are just trusted: their own scatter is up to 1 dB
  await told(page, 'info', /Saved “Main L \+ Subs · Mix desk.*Predicted and measured differ by (0\.\d|1\.[0-4]) dB/)
  const combined = (await site.takes()).filter(isCombined)
  expect(combined.map(t => [t.source, t.also])).toEqual([['main-l', ['subs']]])
  await area(page, 'Align')
  await look(page, 'Combined')
  const kept = plate(page).locator(`[data-combined="${combined[0]!.id}"]`)
  await expect(kept).toContainText(/differ by (0\.\d|1\.[0-4]) dB/)
})

test('sources arrive together or later; alternatives are kept, compared and sent; an arrival is set by hand', async ({
  page, site,
}) => {
  await openDemo(page)
  await takeMain(page)
  await takeAlone(page, 'main-r/mix')
  await page.getByRole('button', { name: 'Hush' }).click()
  await area(page, 'Align')
  const way = (name: string) => plate(page).locator(`[data-way="${name}"]`)
  await look(page, 'Combined')
  await page.getByRole('button', { name: 'Save drafts as alternative' }).click()
  await expect(way('A')).toContainText(/\d\.\d\d dB/)
  const inspector = page.getByTestId('align-inspector')
  await inspector.getByLabel('Main R').check()
  await type(page, 'Offset', '5')
  await inspector.getByRole('button', { name: 'Align times' }).click()
  await told(page, 'info', 'Main R arrives with Main L, 5.00 ms later.')
  const held = async (n: number) => (await site.value('processor', `/outputs/${n}/delay`))[1]
  await look(page, 'Times')
  await expect(plate(page).locator('[data-arrivals="main-r"]')).toContainText(/\+(5\.0[01]|4\.99) ms/)
  await expect.poll(() => held(2)).toBeGreaterThan(0.004)
  await expect.poll(async () => await held(2) === await held(3)).toBe(true)
  // back to A, which is sent
  await look(page, 'Combined')
  await way('A').getByRole('button', { name: 'Send A' }).click()
  await expect.poll(() => held(2)).toBe(0)
  await way('A').getByRole('button', { name: 'Delete A' }).click()
  await expect(way('A')).toHaveCount(0)
  // all mains are one party too
  await choose(inspector, 'Reference', 'Mains together')
  await choose(inspector, 'Reference', 'Main L')
  // with a source left out, only what sounds is summed
  await plate(page).getByLabel('Main R').uncheck()
  await plate(page).getByLabel('Main L').uncheck()
  await expect(plate(page)).toContainText('All sources are excluded')
  // an arrival read by hand counts from then on
  await look(page, 'Times')
  await plate(page).locator('[data-arrivals="main-r"] button').first().click()
  await expect(page.getByTestId('arrival-hand')).toBeVisible()
  await type(page, 'Arrival by hand', '60')
  await expect(plate(page).locator('[data-arrivals="main-r"]')).toContainText('by hand')
  const byHand = async () => (await site.takes()).find(t => t.source === 'main-r')?.arrival ?? NaN
  await expect.poll(byHand).toBeCloseTo(0.06, 6)
  await page.getByTestId('arrival-hand').getByRole('button', { name: /^Back to/ }).click()
  await expect(plate(page).locator('[data-arrivals="main-r"]')).not.toContainText('by hand')
  // loudspeakers round one place, levels, likeness: each says what it would do
  await look(page, 'Levels')
  await plate(page).getByLabel('Delay L is one of them').check()
  await plate(page).getByLabel('Delay R is one of them').check()
  await expect(plate(page).locator('[data-trim="delay-l"]')).toContainText('ms')
  await look(page, 'Phase matching')
  await plate(page).getByRole('button', { name: 'Find all-passes for phase matching' }).click()
  await expect(page.getByTestId('alike')).toContainText('of the band lies within 30°')
  await plate(page).getByRole('button', { name: 'Save as group for this pair of kinds' }).click()
  await told(page, 'info', 'Saved as the group “Main R like Main L”')
})
