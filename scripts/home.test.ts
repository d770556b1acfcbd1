import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { lock, openData } from './home.mjs'

const base = mkdtempSync(join(tmpdir(), 'kovrin-home-'))
afterAll(() => rmSync(base, { recursive: true, force: true }))
let count = 0
const fresh = () => join(base, `data-${count++}`)
const modeOf = (path: string) => statSync(path).mode & 0o777

describe('the data folder', () => {
  it('is made, and taken again', () => {
    const data = fresh()
    openData(data)
    openData(data)
    expect(JSON.parse(readFileSync(join(data, 'kovrin-data.json'), 'utf8'))).toEqual({ kovrin: 'data', version: 1 })
  })
  it('keeps the mode that it has', () => {
    const data = fresh()
    mkdirSync(data)
    chmodSync(data, 0o700)
    openData(data)
    expect(modeOf(data)).toBe(0o700)
  })
  it('of before the mark is known by its database', () => {
    const data = fresh()
    mkdirSync(join(data, 'postgres'), { recursive: true })
    writeFileSync(join(data, 'postgres/password'), 'x')
    openData(data)
    expect(existsSync(join(data, 'kovrin-data.json'))).toBe(true)
  })
  it.each<[string, (data: string) => void, RegExp]>([
    ['somebody else’s', (data) => {
      mkdirSync(data)
      writeFileSync(join(data, 'thesis.txt'), 'x')
    }, /files in it that are not Kovrin's/],
    ['a newer Kovrin’s', (data) => {
      mkdirSync(data)
      writeFileSync(join(data, 'kovrin-data.json'), '{"kovrin":"data","version":2}')
    }, /newer Kovrin \(version 2/],
    ['with a mark that is none', (data) => {
      mkdirSync(data)
      writeFileSync(join(data, 'kovrin-data.json'), '{"kov')
    }, /whose folder this is is not known/],
    ['a file', data => writeFileSync(data, ''), /is no folder/],
    ['under a file', (data) => {
      writeFileSync(data, '')
    }, /is no folder/],
  ])('that is %s is refused in words, and nothing in it is changed', (what, make, why) => {
    const data = fresh()
    make(data)
    const before = statSync(data).isDirectory() ? readdirSync(data) : null
    expect(() => openData(what === 'under a file' ? join(data, 'below') : data)).toThrow(why)
    expect(statSync(data).isDirectory() ? readdirSync(data) : null).toEqual(before)
  })
  it('on a medium that cannot be written is refused in words', () => {
    expect(() => openData('/proc/kovrin')).toThrow(/The data folder \/proc\/kovrin .*Nothing was changed/)
  })
  it('has one Kovrin: a lock of a process that is gone, or is another program, does not count', () => {
    const data = fresh()
    openData(data)
    writeFileSync(join(data, 'running.pid'), '1')
    const free = lock(data)
    expect(readFileSync(join(data, 'running.pid'), 'utf8')).toBe(String(process.pid))
    free()
    expect(existsSync(join(data, 'running.pid'))).toBe(false)
  })
})
