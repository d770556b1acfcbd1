import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const folder = (path: string) => fileURLToPath(new URL(path, import.meta.url)).replace(/\/$/, '')

export default defineConfig({
  resolve: { alias: { '~~': folder('.'), '~': folder('app') } },
  test: {
    include: ['{core,standins,server,app,scripts}/**/*.test.ts'],
    setupFiles: ['core/reference/english.ts'],
    globalSetup: ['core/reference/globalSetup.ts', 'server/testing/globalSetup.ts'],
    // these say only when to give up: a busy machine may take its time
    testTimeout: 240_000,
    hookTimeout: 120_000,
    expect: { poll: { timeout: 30_000 } },
    // every file that needs a database makes its own, so two may run at a time
    maxWorkers: 2,
    reporters: ['default', 'json'],
    outputFile: { json: 'test-results/unit.json' },
  },
})
