// Makes docs/accuracy.md of what the tests measured: what, largest error seen, limit, source.
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { root } from './say.mjs'

const lines = join(root, 'test-results/accuracy.jsonl')

/** Two digits that count, and a limit as it is written. */
const shown = value => (value === 0 ? '0' : Number(value.toPrecision(2)).toString())

/** Writes the table; nothing when the tests left no lines. */
export function writeAccuracy() {
  if (!existsSync(lines)) return
  const rows = new Map(
    readFileSync(lines, 'utf8').trim().split('\n').map(line => JSON.parse(line)).map(row => [row.what, row]),
  )
  const table = [...rows.values()]
    .sort((a, b) => a.what.localeCompare(b.what, 'en', { numeric: true }))
    .map(({ what, measured, limit, unit, source }) =>
      `| ${what} | ${shown(measured)} ${unit} | ${limit} ${unit} | ${source} |`)
  writeFileSync(
    join(root, 'docs/accuracy.md'),
    `# Accuracy

Largest errors that the tests measured, beside their limits. \`npm test\` writes this table anew; a value over its
limit fails the test that measured it.

| what | measured | limit | held against |
| --- | --- | --- | --- |
${table.join('\n')}
`,
  )
}
