/**
 * How a drag of a filter feels that redraws its composite, 12 predictions and their average: pictures a second over
 * five seconds. Needs a running Kovrin (KOVRIN_URL).
 */
import { feltOver, onCopy } from './page.mjs'

await onCopy(async ({ page, ask, site }) => {
  await page.evaluate(() => localStorage.setItem('kovrin-older-takes', 'true'))
  await page.reload()
  await page.locator('[data-cell="main-l/mix"]').click()
  await page.getByTestId('noise').click()
  await page.getByTestId('trust').getByText(/1\d blocks/).waitFor()
  await page.getByTestId('take').click()
  await page.locator('[data-take]').first().waitFor()
  const takes = async () =>
    Object.values((await ask(`/${site}`)).documents).filter(d => d?.source === 'main-l' && d.position === 'mix')
  for (let n = (await takes()).length; n < 12; n++)
    await ask(`/${site}/takes/${(await takes())[0].id}/duplicate`, { method: 'POST' })
  await page.waitForFunction(() => document.querySelectorAll('[data-take]').length >= 12)
  await page.getByRole('button', { name: 'Hush' }).click()
  await page.getByRole('navigation', { name: 'Areas' }).getByRole('button', { name: 'Shape' }).click()
  await page.getByRole('radio', { name: 'Draft' }).click()
  const box = await page.locator('[data-handle="/outputs/0/eq/0"]').boundingBox()
  await page.mouse.move(box.x + 12, box.y + 12)
  await page.mouse.down()
  const felt = feltOver(page, 5000)
  let dragging = true
  void felt.then(() => {
    dragging = false
  })
  const at = n => [box.x + 12 + 60 * Math.sin(n / 9), box.y + 12 + 20 * Math.cos(n / 7)]
  for (let n = 0; dragging; n++) await page.mouse.move(...at(n))
  await page.mouse.up()
  console.log(`${await page.locator('[data-take]').count()} takes predicted while a filter is dragged`, await felt)
})
