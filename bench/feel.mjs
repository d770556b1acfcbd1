/**
 * How the page feels with 8 running and 24 kept traces: pictures a second and the longest task of its main
 * thread over ten
 * seconds, in headless Chromium, on a copy of the demo site that is deleted afterwards. Needs a running Kovrin
 * (KOVRIN_URL).
 */
import { feltOver, onCopy } from './page.mjs'

await onCopy(async ({ page, ask, site }) => {
  await page.evaluate((key) => {
    const card = 'simulated-interface'
    const places = [null, 'mid', 'rear']
    const references = [`${card}#3`, 'generator', `${card}#4`]
    const measurements = references
      .flatMap((reference, r) =>
        places.map((position, m) => ({
          id: `${r}${m}`,
          microphone: `${card}#${m}`,
          reference,
          position,
          state: 'on',
        })),
      )
      .slice(0, 8)
    localStorage.setItem(
      'kovrin-sets',
      JSON.stringify({
        [key]: { current: 'eight', front: '00', sets: [{ id: 'eight', name: 'Eight', measurements }] },
      }),
    )
    localStorage.setItem('kovrin-older-takes', 'true')
  }, `${site}/venue`)
  await page.reload()
  await page.locator('[data-cell="main-l/mix"]').click()
  await page.getByTestId('noise').click()
  await page
    .getByTestId('trust')
    .getByText(/2\d blocks/)
    .waitFor()
  const inCell = async () =>
    Object.entries((await ask(`/${site}`)).documents)
      .flatMap(([key, d]) => (key.startsWith('take/') && d.source === 'main-l' && d.position === 'mix' ? [d] : []))
  await page.getByTestId('take').click()
  await page.locator('[data-take]').first().waitFor()
  for (let n = (await inCell()).length; n < 24; n++)
    await ask(`/${site}/takes/${(await inCell())[0].id}/duplicate`, { method: 'POST' })
  await page.waitForFunction(() => document.querySelectorAll('[data-take]').length >= 24)
  const felt = await feltOver(page, 10_000)
  console.log(
    `${await page.locator('[data-measurement]').count()} measurements running, `
    + `${await page.locator('[data-take]').count()} takes shown`,
    felt,
  )
})
