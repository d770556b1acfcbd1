// Drives the demo into every main view and writes a picture of each, in both themes and three sizes, into a folder
// outside the project; with --docs those of the README into docs/screenshots.
import { spawn } from 'node:child_process'
import { chmodSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chromium } from '@playwright/test'

const docs = process.argv.includes('--docs')
const target = docs ? 'docs/screenshots' : mkdtempSync(join(tmpdir(), 'kovrin-pictures-'))
mkdirSync(target, { recursive: true })
const sizes = docs ? [[1280, 800]] : [[1280, 800], [1024, 768], [820, 1180]]
const themes = ['day', 'night']
/** Pictures of the README: one theme of each view, two of the one that is looked at most. */
const inDocs = new Set([
  'sites-day', 'first-night', 'listen-day', 'listen-night', 'shape-day', 'rig-day', 'device-day',
  'site-day', 'site-night',
  'room-night', 'inputs-night', 'watch-night', 'keys-day', 'guide-day', 'sheet-day', 'align-night', 'run-day',
])

const data = mkdtempSync(join(tmpdir(), 'kovrin-'))
chmodSync(data, 0o755)
const env = { ...process.env, KOVRIN_DATA: data, KOVRIN_PORT: process.env.KOVRIN_PORT ?? '4480', DATABASE_URL: '' }
const server = spawn(process.execPath, ['scripts/start.mjs'], { env, stdio: ['ignore', 'pipe', 'inherit'] })
const address = await new Promise((found, lost) => {
  let said = ''
  server.stdout.on('data', (chunk) => {
    said += chunk
    const ready = /Kovrin is ready at (\S+)/.exec(said)
    if (ready) found(ready[1])
  })
  server.on('exit', code => lost(new Error(`The application ended with ${code}: ${said}`)))
})

/** The demo's views, in the order of the job; each begins where the one before ended. */
const views = {
  sites: page => page.getByRole('link', { name: 'Ropewalk Hall', exact: true }).waitFor(),
  first: async (page) => {
    await page.goto(`${address}/sites/ropewalk-hall`)
    await page.getByText('4 of 4 devices in sync').waitFor()
  },
  listen: async (page) => {
    await page.locator('[data-cell="main-l/mix"]').focus()
    await page.keyboard.press('Enter')
    await page.getByTestId('noise').click()
    await page.getByTestId('arrival').waitFor()
    await page.getByTestId('trust').filter({ hasText: /2\d blocks/ }).waitFor()
    await page.getByTestId('take').click()
    await page.locator('[data-cell="main-l/mix"][data-state="fresh"]').waitFor({ state: 'attached' })
  },
  shape: async (page) => {
    await area(page, 'Shape')
    await page.getByRole('radio', { name: 'Draft' }).click()
    await page.getByLabel('EQ band 1 gain', { exact: true }).fill('-4')
    await page.keyboard.press('Enter')
    await page.getByText(/1 unsent/).first().waitFor()
  },
  sheet: async (page) => {
    await page.getByRole('button', { name: 'All sheets' }).click()
    await page.getByTestId('sheet-plate').getByText('No problems found').waitFor()
  },
  rig: async (page) => {
    await page.getByRole('button', { name: 'Charts', exact: true }).click()
    await area(page, 'Rig')
  },
  device: async (page) => {
    await page.getByRole('button', { name: 'Channels of System processor' }).click()
    await page.locator('[data-strip="outputs/1"] tr').first().click()
  },
  site: async (page) => {
    await area(page, 'Site')
    await page.getByTestId('spread').waitFor()
  },
  watch: page => area(page, 'Watch'),
  room: async (page) => {
    await page.getByRole('button', { name: 'Discard' }).click()
    await area(page, 'Listen')
    await page.getByTestId('sweep-one').click()
    await page.getByText(/Saved “Main L · Mix desk, take/).first().waitFor({ timeout: 60_000 })
    await page.getByRole('combobox', { name: 'Chart 2', exact: true }).click()
    await page.getByRole('option', { name: 'Decay times and clarity' }).click()
    await page.getByTestId('decay-times').getByText('1 kHz').waitFor()
  },
  align: async (page) => {
    await page.locator('[data-cell="subs/mix"]').click()
    await page.getByRole('button', { name: 'Feed only this' }).click()
    await page.getByRole('button', { name: 'Send it now' }).click()
    await page.getByTestId('path-finding').waitFor({ state: 'detached' })
    await page.getByTestId('noise').click()
    await page.getByTestId('trust').filter({ hasText: /2\d blocks/ }).waitFor()
    await page.getByTestId('take').click()
    await page.locator('[data-cell="subs/mix"][data-state="fresh"]').waitFor({ state: 'attached' })
    await area(page, 'Align')
    await page.getByTestId('align-plate').getByText('Pair', { exact: true }).click()
    await page.getByTestId('trial').waitFor()
  },
  search: async (page) => {
    await page.getByRole('button', { name: 'Find best sum' }).click()
    await page.getByTestId('candidates').scrollIntoViewIfNeeded()
  },
  whole: async (page) => {
    await page.getByTestId('align-plate').getByText('Combined', { exact: true }).click()
    await page.getByRole('button', { name: 'Save drafts as alternative' }).click()
    await page.locator('[data-way="A"]').waitFor()
  },
  run: async (page) => {
    await page.getByTestId('run-progress').click()
    await page.locator('[data-step="alone/main-l"]').waitFor()
  },
  inputs: async (page) => {
    await area(page, 'Listen')
    await page.getByTestId('inputs').click()
    await page.getByRole('heading', { name: 'Inputs and outputs' }).waitFor()
  },
  keys: async (page) => {
    await page.keyboard.press('k')
    await page.getByRole('dialog', { name: 'Keyboard shortcuts' }).waitFor()
  },
  guide: async (page) => {
    await page.keyboard.press('Escape')
    await area(page, 'Align')
    await page.keyboard.press('?')
    await page.getByRole('heading', { name: 'Align subs to mains' }).waitFor()
    await page.getByRole('dialog').getByRole('img').first().waitFor()
  },
}
const area = (page, name) =>
  page.getByRole('navigation', { name: 'Areas' }).getByRole('button', { name }).click()

const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] })
let failed = 0
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  page.setDefaultTimeout(30_000)
  await page.goto(address)
  for (const [name, reach] of Object.entries(views)) {
    await page.setViewportSize({ width: 1280, height: 800 })
    await reach(page)
    for (const theme of themes) {
      await page.evaluate((t) => {
        if (document.documentElement.getAttribute('data-theme') === t) return
        document.querySelector('[data-testid="theme"], [aria-label="Change theme"]').click()
      }, theme)
      for (const [width, height] of sizes) {
        const file = docs ? `${name}-${theme}` : `${name}-${theme}-${width}`
        if (docs && !inDocs.has(file)) continue
        await page.setViewportSize({ width, height })
        await page.evaluate(() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done))))
        await page.screenshot({ path: join(target, `${file}.png`) })
      }
    }
  }
}
catch (error) {
  failed = 1
  console.error(error)
}
await browser.close()
server.kill('SIGTERM')
await new Promise(ended => server.on('exit', ended))
rmSync(data, { recursive: true, force: true })
console.log(`Pictures are in ${target}`)
process.exit(failed)
