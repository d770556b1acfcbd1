import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { faultsOf, inRange, packagesOf } from './licences.mjs'

const root = join(import.meta.dirname, '..')
const read = (file: string) => JSON.parse(readFileSync(join(root, file), 'utf8'))
const rules = { licences: ['MIT', 'ISC'], developmentOnly: ['MPL-2.0'], unpinned: [], read: {}, faults: {
  bad: [{ range: '>=1.2.0 <1.4.1', why: 'it opens the door' }] } }
const lock = (packages: object) => ({ packages: { '': {}, ...packages } })
const one = { version: '1.0.0', license: 'MIT', integrity: 'sha512-x' }

describe('what comes along', () => {
  it.each<[string, object, object, RegExp]>([
    ['a licence that may not', {}, { 'node_modules/a': { ...one, license: 'GPL-3.0' } }, /a 1\.0\.0 is under GPL-3\.0/],
    ['no licence', {}, { 'node_modules/a': { ...one, license: undefined } }, /no licence/],
    ['both of two, one of which may not',
      {}, { 'node_modules/a': { ...one, license: '(MIT AND GPL-2.0)' } }, /GPL-2\.0/],
    ['a licence for development only', {}, { 'node_modules/a': { ...one, license: 'MPL-2.0' } }, /MPL-2\.0/],
    ['a known fault, deep below', {}, { 'node_modules/a/node_modules/bad': { ...one, version: '1.4.0' } }, /the door/],
    ['no check sum', {}, { 'node_modules/a': { ...one, integrity: undefined } }, /no check sum/],
    ['a version that is not pinned', { dependencies: { a: '^1.0.0' } }, {}, /a is not pinned/],
  ])('%s is found', (_, manifest, packages, why) => {
    expect(faultsOf(manifest, lock(packages), rules).join()).toMatch(why)
  })
  it('one of two licences is enough, and a mended version is whole', () => {
    const packages = {
      'node_modules/a': { ...one, license: '(GPL-2.0 OR MIT)' },
      'node_modules/b': { ...one, license: 'MPL-2.0', dev: true },
      'node_modules/bad': { ...one, version: '1.4.1' },
    }
    expect(faultsOf({ dependencies: { a: '1.0.0' } }, lock(packages), rules)).toEqual([])
  })
  // versions are ordered as Semantic Versioning 2.0.0 (11) has it
  it.each([['1.10.0', '>=1.9.0', true], ['1.9.9', '>=1.10.0', false], ['2.0.0-rc.1', '<2.0.0', true],
    ['2.0.0', '<2.0.0', false], ['1.2.3', '1.2.3', true]])('%s in %s: %s', (version, range, is) => {
    expect(inRange(version, range)).toBe(is)
  })
  it('is listed by npm sbom, whole', () => {
    const text = execFileSync('npm', ['sbom', '--sbom-format', 'cyclonedx', '--package-lock-only'],
      { cwd: root, encoding: 'utf8', maxBuffer: 2 ** 28, stdio: ['ignore', 'pipe', 'ignore'] })
    const listed = new Set((JSON.parse(text) as { components: { name: string, group?: string, version: string }[] })
      .components.map(c => `${c.group ? `${c.group}/` : ''}${c.name}@${c.version}`))
    const needed = packagesOf(read('package-lock.json')).filter(p => !p.optional)
    const missing = needed.filter(p => !listed.has(`${p.name}@${p.version}`))
    expect(missing.map(p => p.name)).toEqual([])
    expect(listed.size).toBeGreaterThan(500)
  })
})
