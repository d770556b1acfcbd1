// What comes with Kovrin, held against the list that stands in the repository: each package under a licence that may
// come along, exactly pinned, and none of the versions in which a fault is known. Needs no network.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { failWith, root, Stop } from './say.mjs'

const read = file => JSON.parse(readFileSync(join(root, file), 'utf8'))

/** Numbers of a version, for comparing: 1.10.2 > 1.9. A release comes after its own previews. */
function compare(a, b) {
  const [x, y] = [a, b].map(v => v.split('-')[0].split('.').map(Number))
  for (let k = 0; k < 3; k++) if ((x[k] ?? 0) !== (y[k] ?? 0)) return (x[k] ?? 0) - (y[k] ?? 0)
  return Number(b.includes('-')) - Number(a.includes('-'))
}
/** Whether a version lies in `>=1.2.0 <1.4.1`. */
export const inRange = (version, range) => range.split(/\s+/).every((part) => {
  const [, sign, bound] = /^(>=|<=|<|>|=)?(.+)$/.exec(part)
  const way = compare(version, bound)
  return { '>=': way >= 0, '<=': way <= 0, '<': way < 0, '>': way > 0 }[sign ?? '='] ?? way === 0
})

/** Every package of the lock file: name, version, licence, whether it only serves development. */
export const packagesOf = lock => Object.entries(lock.packages).filter(([path]) => path !== '').map(([path, p]) => ({
  name: p.name ?? path.slice(path.lastIndexOf('node_modules/') + 'node_modules/'.length),
  version: p.version,
  licence: p.license ?? null,
  development: Boolean(p.dev || p.devOptional),
  optional: Boolean(p.optional || p.devOptional || p.peer),
  // what lies inside another package is held by that one's sum
  whole: Boolean(p.integrity || p.inBundle),
}))

/** `A OR B` allows when one is allowed, `A AND B` when both are. */
const allowed = (licence, list) => licence.replace(/[()]/g, '').split(' OR ')
  .some(way => way.split(' AND ').every(one => list.includes(one.trim())))

/** Everything that speaks against what comes along, in words. */
export function faultsOf(manifest, lock, rules) {
  const faults = []
  for (const [name, version] of Object.entries({ ...manifest.dependencies, ...manifest.devDependencies }))
    if (!/^\d+\.\d+\.\d+/.test(version) && !rules.unpinned.includes(name))
      faults.push(`${name} is not pinned exactly (${version}).`)
  for (const { name, version, licence, development, whole } of packagesOf(lock)) {
    const list = [...rules.licences, ...(development ? rules.developmentOnly : [])]
    const told = rules.read[name] ?? licence
    if (!told || !allowed(told, list)) faults.push(`${name} ${version} is under ${told ?? 'no licence that it tells'}.`)
    if (!whole) faults.push(`${name} ${version} has no check sum in the lock file.`)
    for (const { range, why } of rules.faults[name] ?? [])
      if (inRange(version, range)) faults.push(`${name} ${version}: ${why}`)
  }
  return faults
}

function main() {
  const lock = read('package-lock.json')
  const faults = faultsOf(read('package.json'), lock, read('scripts/licences.json'))
  if (faults.length) throw new Stop(`${faults.join('\n')}\nThe rules are in scripts/licences.json.`)
  console.log(`${packagesOf(lock).length} packages: every licence may come along, every version is pinned.`)
}
if (import.meta.filename === process.argv[1]) {
  try {
    main()
  }
  catch (error) { failWith(error) }
}
