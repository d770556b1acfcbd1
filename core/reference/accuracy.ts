import { appendFileSync, mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { expect } from 'vitest'

const folder = join(import.meta.dirname, '../../test-results')
/** Lines that the tests write, and that `scripts/accuracy.mjs` makes docs/accuracy.md of. */
export const accuracyLines = join(folder, 'accuracy.jsonl')

/** One line of the table of accuracy. */
export interface Accuracy {
  what: string
  /** Largest error that was seen, in `unit`. */ measured: number
  limit: number
  unit: string
  source: string
}

/** Expects a measured error to be within its limit, and puts both into the table of accuracy. */
export function expectAccuracy(line: Accuracy): void {
  mkdirSync(folder, { recursive: true })
  appendFileSync(accuracyLines, `${JSON.stringify(line)}\n`)
  expect(line.measured, line.what).toBeLessThanOrEqual(line.limit)
}
