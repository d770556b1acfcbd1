import { defineConfig } from 'vitest/config'
import { fileURLToPath } from 'node:url'

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url))

export default defineConfig({
  resolve: { alias: { '#core': at('./core'), '#standins': at('./standins') } },
  test: {
    include: ['{core,standins,server,app,scripts}/**/*.test.ts'],
    globalSetup: ['core/reference/globalSetup.ts'],
    testTimeout: 60_000,
    reporters: ['default', 'json'],
    outputFile: { json: 'test-results/unit.json' },
  },
})
