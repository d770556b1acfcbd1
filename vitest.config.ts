import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  resolve: { alias: { '~~': fileURLToPath(new URL('.', import.meta.url)).replace(/\/$/, '') } },
  test: {
    include: ['{core,standins,server,app,scripts}/**/*.test.ts'],
    globalSetup: ['core/reference/globalSetup.ts', 'server/testing/globalSetup.ts'],
    testTimeout: 60_000,
    reporters: ['default', 'json'],
    outputFile: { json: 'test-results/unit.json' },
  },
})
