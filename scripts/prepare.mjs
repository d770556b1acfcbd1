// Brings the checkout to where it can run: packages installed, application built. Both only when needed.
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { root, run, say } from './say.mjs'

const lockMark = join(root, 'node_modules/.kovrin-lock')
const buildMark = join(root, '.output/.kovrin-build')
const hash = text => createHash('sha256').update(text).digest('hex')

/** `npm ci` when node_modules does not belong to this lock file. */
export async function installPackages(logs) {
  const wanted = hash(readFileSync(join(root, 'package-lock.json')))
  if (existsSync(lockMark) && readFileSync(lockMark, 'utf8') === wanted) return
  say('Installing packages (npm ci), one to four minutes …')
  await run('npm ci', 'npm', ['ci', '--no-audit', '--no-fund'], join(logs, 'npm-ci.log'), {
    env: { ...process.env, NODE_ENV: 'development' },
  })
  writeFileSync(lockMark, wanted)
}

const built = [
  'app',
  'core',
  'server',
  'standins',
  'public',
  'nuxt.config.ts',
  'package.json',
  'package-lock.json',
  'tsconfig.json',
]

function* files(path) {
  if (!existsSync(path)) return
  if (!statSync(path).isDirectory()) {
    yield path
    return
  }
  for (const name of readdirSync(path).sort()) yield* files(join(path, name))
}

/** What the build is made of, as one hash: dates lie after a checkout, contents do not. */
function sourcesHash() {
  const sum = createHash('sha256')
  for (const top of built)
    for (const file of files(join(root, top)))
      if (!/\.test\.ts$/.test(file)) sum.update(file).update(readFileSync(file))
  return sum.digest('hex')
}

/** Builds the application and the stand-ins when the build is older than the sources. */
export async function build(logs) {
  const wanted = sourcesHash()
  if (
    existsSync(buildMark)
    && readFileSync(buildMark, 'utf8') === wanted
    && existsSync(join(root, '.output/server/index.mjs'))
  )
    return
  say('Building the application, one to three minutes …')
  const bin = name => join(root, 'node_modules/.bin', name)
  await run('The build', bin('nuxt'), ['build'], join(logs, 'build.log'), {
    env: { ...process.env, NODE_ENV: 'production' },
  })
  for (const [from, to] of [
    ['standins/device/main.ts', 'standins/device.mjs'],
    ['server/jobs/analysis.ts', 'jobs/analysis.mjs'],
  ]) {
    mkdirSync(dirname(join(root, '.output', to)), { recursive: true })
    await run(
      `The build of ${from}`,
      bin('esbuild'),
      [
        from,
        '--bundle',
        '--platform=node',
        '--format=esm',
        '--target=node20',
        // packages of the older kind ask for Node's own modules
        '--banner:js=import { createRequire } from "node:module"; const require = createRequire(import.meta.url)',
        `--outfile=.output/${to}`,
        '--log-level=warning',
      ],
      join(logs, 'build-parts.log'),
    )
  }
  writeFileSync(buildMark, wanted)
}
