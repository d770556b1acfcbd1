// npm test: sets itself up, then lint, types, unit tests against scipy, and the real interface in Chromium.
// With --long (npm run test:long) every statistic over all of its seeds and 1,000 faults; without, over a sample.
// Last line: N passed, N failed.
import { spawn, spawnSync } from 'node:child_process'
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { writeAccuracy } from './accuracy.mjs'
import { build, installPackages } from './prepare.mjs'
import { debianPackages, failWith, root, say, Stop, works } from './say.mjs'

const results = join(root, 'test-results')
const logs = join(results, 'logs')
if (process.argv.includes('--long')) Object.assign(process.env, { KOVRIN_LONG: '1', KOVRIN_FAULTS: '1000' })
let passed = 0
let failed = 0

/** One named check of its own, in a process beside others: passes when the command does; says its output at its end. */
function check(what, command, args) {
  say(`${what} …`)
  const child = spawn(resolve(root, 'node_modules/.bin', command), args, { cwd: root })
  let words = ''
  for (const stream of [child.stdout, child.stderr]) stream.on('data', data => (words += data))
  return new Promise((resolve) => {
    child.once('error', error => (words += error.message))
    child.once('close', (code) => {
      if (code === 0) passed++
      else failed++
      if (words.trim()) console.log(words.trim())
      say(`${what}: ${code === 0 ? 'passed' : 'FAILED'}`)
      resolve()
    })
  })
}

/** Runs a test runner and counts by its own report; no report, or none run, is a failure. */
function suite(what, args, report, count, env = {}) {
  say(`${what} …`)
  rmSync(report, { force: true })
  const { status } = spawnSync(join(root, 'node_modules/.bin', args[0]), args.slice(1), {
    cwd: root,
    stdio: 'inherit',
    env: { ...process.env, ...env },
  })
  const [good, bad] = existsSync(report) ? count(JSON.parse(readFileSync(report, 'utf8'))) : [0, 0]
  passed += good
  failed += bad || (status === 0 && good > 0 ? 0 : 1)
}

/** Seconds and title of every test of a report of the interface, and of the unit tests. */
const timesIn = ({ suites = [], specs = [] }) => [
  ...specs.map(s => [s.tests.flatMap(t => t.results).reduce((sum, r) => sum + r.duration, 0) / 1000, s.title]),
  ...suites.flatMap(timesIn),
]
const unitTimes = ({ testResults = [] }) =>
  testResults.flatMap(f => f.assertionResults.map(t => [(t.duration ?? 0) / 1000, t.fullName]))

/** Says which ten tests took the longest: what is to be made faster next. */
function saySlowest() {
  const read = name => (existsSync(join(results, name)) ? JSON.parse(readFileSync(join(results, name), 'utf8')) : {})
  const all = [...unitTimes(read('unit.json')), ...timesIn(read('e2e.json'))].toSorted((a, b) => b[0] - a[0])
  console.log('The slowest ten tests:')
  for (const [seconds, title] of all.slice(0, 10)) console.log(`${seconds.toFixed(1).padStart(7)} s  ${title}`)
}

/** Titles of the tests of a report that failed first and passed then. */
const flakyIn = ({ suites = [], specs = [] }) => [
  ...specs.filter(s => s.tests.some(t => t.status === 'flaky')).map(s => s.title),
  ...suites.flatMap(flakyIn),
]

async function packages() {
  const postgres = works('sh', ['-c', 'ls /usr/lib/postgresql/*/bin/initdb'])
  const missing = [
    ...(postgres ? [] : ['postgresql']),
    ...(existsSync('/usr/bin/chromium') ? [] : ['chromium']),
    ...(works('/usr/bin/python3', ['-c', 'import scipy, numpy'])
      ? []
      : ['python3', 'python3-numpy', 'python3-scipy']),
  ]
  if (missing.length) await debianPackages('what the tests need', missing, logs)
}

function startKovrin(data) {
  const child = spawn(process.execPath, ['scripts/start.mjs'], {
    cwd: root,
    env: { ...process.env, DATABASE_URL: '', KOVRIN_DATA: data, KOVRIN_PORT: '4350' },
  })
  return new Promise((resolve, reject) => {
    let words = ''
    const hear = (text) => {
      words += text
      const url = /Kovrin is ready at (\S+)/.exec(words)?.[1]
      if (url)
        resolve({
          url,
          end: () =>
            new Promise((done) => {
              child.once('exit', done)
              child.kill('SIGTERM')
            }),
        })
    }
    child.stdout.on('data', hear)
    child.stderr.on('data', hear)
    // what goes wrong in the server belongs beside the test that met it
    child.stderr.pipe(process.stderr)
    child.once('exit', code => reject(new Stop(`Kovrin did not start (${code}):\n${words}`)))
  })
}

try {
  mkdirSync(logs, { recursive: true })
  await packages()
  await installPackages(logs)
  await build(logs)
  await check('Types of the framework', 'nuxt', ['prepare'])
  await Promise.all([
    check('Lint with the import boundaries', 'eslint', ['.']),
    check('What nobody uses', 'knip', []),
    check('Licences, pins and known faults', process.execPath, ['scripts/licences.mjs']),
    check('Type check', 'vue-tsc', ['-b', '--noEmit']),
  ])
  rmSync(join(results, 'accuracy.jsonl'), { force: true })
  suite('Unit and reference tests', ['vitest', 'run'], join(results, 'unit.json'), r => [
    r.numPassedTests,
    r.numFailedTests + r.testResults.filter(t => t.status === 'failed' && !t.assertionResults.length).length,
  ])
  writeAccuracy()
  const data = mkdtempSync(join(tmpdir(), 'kovrin-test-'))
  chmodSync(data, 0o755)
  const kovrin = await startKovrin(data)
  try {
    suite(
      'The real interface in Chromium',
      ['playwright', 'test'],
      join(results, 'e2e.json'),
      (r) => {
        for (const title of flakyIn(r)) console.log(`flaky, passed at its second try only: ${title}`)
        return [r.stats.expected + r.stats.flaky, r.stats.unexpected]
      },
      { KOVRIN_URL: kovrin.url, KOVRIN_DATA: data },
    )
  }
  finally {
    await kovrin.end()
    rmSync(data, { recursive: true, force: true })
  }
}
catch (error) {
  failed++
  failWith(error)
}
saySlowest()
if (failed) process.exitCode = 1
console.log(`${passed} passed, ${failed} failed`)
