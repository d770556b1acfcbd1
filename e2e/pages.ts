import { expect, type Page } from '@playwright/test'

export const demo = '/sites/ropewalk-hall'

/** Opens the demo site with a clean browser memory and waits until it is in step with its devices. */
export async function openDemo(page: Page) {
  await page.goto(demo)
  await expect(page.getByTestId('devices')).toContainText('4 of 4 devices in step')
}

export const cell = (page: Page, id: string) => page.locator(`[data-cell="${id}"]`)

/** Picks a cell and starts the noise; comes back when the arrival is found. */
export async function measure(page: Page, id: string) {
  await cell(page, id).click()
  await page.getByTestId('noise').click()
  await expect(page.getByTestId('arrival')).toBeVisible()
}

/** Adds a measurement of the simulated microphone `number` at a position to the set in use. */
export async function addMicrophone(page: Page, number: number, position: string) {
  await page.getByRole('button', { name: '+ measurement' }).click()
  await page.getByLabel('Microphone channel').selectOption({ label: `Microphone ${number}` })
  await page.getByLabel(`Microphone ${number} stands`).selectOption(position)
  await page.getByRole('button', { name: `Settings of Microphone ${number}` }).click()
}

/** Level in dB that the plate shows at a frequency: points at the chart there and reads the sentence. */
export async function levelAt(page: Page, hertz: number): Promise<number> {
  const box = (await page.locator('[data-chart="Magnitude"] canvas').boundingBox())!
  const left = box.x + 46
  const right = box.x + box.width - 128
  const x = left + ((right - left) * Math.log(hertz / 18)) / Math.log(20_500 / 18)
  await page.mouse.move(x, box.y + 40 + Math.random() * 20)
  const text = await page.getByTestId('readout').textContent()
  return Number(/([+−]?\d+\.\d) dB/.exec(text ?? '')?.[1]?.replace('−', '-'))
}

export const area = (page: Page, name: string) =>
  page.getByRole('navigation', { name: 'Areas' }).getByRole('button', { name }).click()

/** Types a value into a labelled field and leaves it with Enter. */
export async function type(page: Page, label: string, text: string) {
  await page.getByLabel(label, { exact: true }).fill(text)
  await page.keyboard.press('Enter')
}
