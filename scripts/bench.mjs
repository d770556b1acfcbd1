// npm run bench: Kovrin's hot computations against scipy on the same data, in one run; `-- fit` its fits of filters.
import { mkdirSync } from 'node:fs'
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import { installPackages } from './prepare.mjs'
import { debianPackages, failWith, root, run, works } from './say.mjs'

const logs = join(root, 'test-results/logs')
try {
  mkdirSync(logs, { recursive: true })
  if (!works('/usr/bin/python3', ['-c', 'import scipy, numpy']))
    await debianPackages('scipy', ['python3', 'python3-numpy', 'python3-scipy'], logs)
  await installPackages(logs)
  const [which = 'main', ...rest] = process.argv.slice(2)
  const out = join(root, 'test-results/bench.mjs')
  await run(
    'The benchmark’s build',
    join(root, 'node_modules/.bin/esbuild'),
    [
      `bench/${which}.ts`,
      '--bundle',
      '--platform=node',
      '--format=esm',
      '--target=node20',
      '--external:@echogarden/pffft-wasm/simd',
      `--outfile=${out}`,
      '--log-level=warning',
    ],
    join(logs, 'bench.log'),
  )
  const given = which === 'main' ? [join(root, 'bench/scipy_bench.py')] : rest
  process.exitCode = spawnSync(process.execPath, [out, ...given], {
    cwd: root,
    stdio: 'inherit',
  }).status
}
catch (error) {
  failWith(error)
}
