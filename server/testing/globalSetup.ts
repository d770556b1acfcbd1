import { chmodSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { TestProject } from 'vitest/node'
import { startPostgres } from '../../scripts/postgres.mjs'

declare module 'vitest' {
  interface ProvidedContext { postgresUrl: string }
}

/** Starts one real PostgreSQL for the whole test run; every test file makes a database of its own in it. */
export default async function (project: TestProject) {
  const folder = mkdtempSync(join(tmpdir(), 'kovrin-unit-'))
  chmodSync(folder, 0o755)
  const logs = join(folder, 'logs')
  mkdirSync(logs)
  const postgres = await startPostgres(folder, logs)
  project.provide('postgresUrl', postgres.url)
  return async () => {
    await postgres.stop()
    rmSync(folder, { recursive: true, force: true })
  }
}
