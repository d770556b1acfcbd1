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
  // every test has a site and simulated devices of its own
  fullyParallel: true,
  workers: 2,
  // none by itself; .ci/run allows one, and what passes only then is printed as flaky
  retries: Number(process.env.KOVRIN_RETRIES ?? 0),
  // a busy machine may take its time: these say only when to give up
  timeout: 240_000,
  expect: { timeout: 45_000 },
  reporter: [['list'], ['json', { outputFile: 'test-results/e2e.json' }]],
  projects: [
    { name: 'interface', testIgnore: /alone|faults/ },
    // pulls away what all share, or everything: after the others
    { name: 'alone', testMatch: /alone|faults/, dependencies: ['interface'] },
  ],
  use: {
    baseURL: process.env.KOVRIN_URL,
    viewport: { width: 1280, height: 800 },
    // five pictures a second instead of 25: drawing in software is most of what a test costs
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: { executablePath: '/usr/bin/chromium', args: chromiumArgs },
    // costs a fifth of all the time; `npx playwright test --trace on` shows what a test did
    trace: 'off',
  },
})
