import { defineConfig } from '@playwright/test'

export const chromiumArgs = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
]

export default defineConfig({
  testDir: 'e2e',
  workers: 1,
  // sound in real time on a busy machine: a second try is allowed, and Playwright's list names every test that
  // needed it
  retries: 1,
  timeout: 90_000,
  expect: { timeout: 15_000 },
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  use: {
    baseURL: process.env.KOVRIN_URL,
    viewport: { width: 1280, height: 800 },
    launchOptions: { executablePath: '/usr/bin/chromium', args: chromiumArgs },
    trace: 'retain-on-failure',
  },
})
