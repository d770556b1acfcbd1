import type { AxeResults, RunOptions } from 'axe-core'
import type { Page } from '@playwright/test'
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { area, cell, choice, expect, measure, openDemo, test } from './pages'

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8')

type Theme = 'day' | 'night'
/** A theme changes colours alone: what has nothing to do with them is looked for by day only. */
const options: Record<Theme, RunOptions> = {
  day: { resultTypes: ['violations'] },
  night: { resultTypes: ['violations'], runOnly: ['color-contrast', 'link-in-text-block'] },
}

/** What axe-core finds amiss in the page as it is, in short lines. */
async function faults(page: Page, where: string, theme: Theme): Promise<string[]> {
  // what is still on its way in or out is no view yet
  await page.evaluate(() => Promise.allSettled(document.getAnimations()
    .filter(a => a.effect?.getComputedTiming().iterations !== Infinity)
    .map(a => a.finished)))
  await page.evaluate(axe)
  const { violations } = await page.evaluate(o =>
    (window as unknown as { axe: { run: (o: RunOptions) => Promise<AxeResults> } }).axe.run(o), options[theme])
  return violations.flatMap(v => v.nodes.slice(0, 5).map(n => `${where}: ${v.id}: ${n.html.slice(0, 140)}`))
}

for (const theme of ['day', 'night'] as const)
  test(`every view can be used by all, ${theme}`, async ({ page }) => {
    test.slow() // nine views, looked through whole
    await page.addInitScript(t => localStorage.setItem('kovrin-theme', t), theme)
    const found: string[] = []
    const look = async (where: string) => found.push(...(await faults(page, where, theme)))
    await page.goto('/')
    await expect(page.getByRole('link', { name: 'Ropewalk Hall', exact: true })).toBeVisible()
    await look('sites')
    await openDemo(page)
    await look('nothing picked')
    await measure(page, 'main-l/mix')
    await look('listen')
    await page.getByRole('button', { name: 'Settings of Magnitude' }).click()
    await look('chart settings')
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Key of the lines' }).click()
    await look('key')
    await page.keyboard.press('Escape')
    await choice(page, 'Averaging').click()
    await look('an open choice')
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: /^Act on Matrix/ }).click()
    await look('acts of a block')
    await page.keyboard.press('Escape')
    for (const name of ['Site', 'Rig', 'Shape', 'Watch']) {
      await area(page, name)
      await look(name)
    }
    await area(page, 'Listen')
    await page.getByTestId('inputs').click()
    await look('inputs')
    await page.keyboard.press('k')
    await look('keys')
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Commands' }).click()
    await look('commands')
    await page.keyboard.press('Escape')
    await expect(cell(page, 'main-l/mix')).toBeVisible()
    expect(found).toEqual([])
  })
