import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { english } from '../core/words/english'

describe('the catalogue of words', () => {
  it('every sentence of it is said somewhere', () => {
    const files = execFileSync('git', ['ls-files', 'app', 'core', 'server', 'standins'], { encoding: 'utf8' })
      .split('\n')
      .filter(f => /\.(ts|vue)$/.test(f) && !f.startsWith('core/words/english/') && !f.endsWith('.test.ts'))
    const said = new Set(files.flatMap(f =>
      [...readFileSync(f, 'utf8').matchAll(/'([\w-]+(?:\.[\w-]+)+)'/g)].map(found => found[1]!)))
    // the two that every part may use
    const own = ['words', 'several']
    expect(Object.keys(english).filter(code => !said.has(code) && !own.includes(code))).toEqual([])
  })
})
