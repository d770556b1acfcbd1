import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { findIn, guideFor, guideNames, guideOrder, pageOf } from './guide'

const folder = join(import.meta.dirname, '../../docs/guide')
const pages = guideOrder.map(id => pageOf(id, readFileSync(join(folder, `${id}.md`), 'utf8')))

describe('the guide', () => {
  it('has every page in its order, and a page for every area', () => {
    expect(readdirSync(folder).toSorted()).toEqual(guideOrder.map(id => `${id}.md`).toSorted())
    for (const id of guideOrder)
      expect(pages.find(p => p.id === id)!.title.toLowerCase()).toContain(guideNames[id])
    expect(Object.values(guideFor).every(id => guideOrder.includes(id))).toBe(true)
  })
  it('leads nowhere that is not there: every link and picture is a file of the project', () => {
    for (const { id, text } of pages) {
      for (const [, target] of text.matchAll(/\]\(([^)]+)\)/g))
        expect(() => readFileSync(join(folder, target!)), `${id}: ${target}`).not.toThrow()
    }
  })
  it('is found by its words, titles first, with the line that says so', () => {
    expect(findIn(pages, '').map(f => f.page.id)).toEqual([...guideOrder])
    expect(findIn(pages, 'Trust')[0]!.page.id).toBe('trust')
    const [found] = findIn(pages, 'summation loss')
    expect(found!.page.id).toBe('align-subs')
    expect(found!.line).toContain('summation loss')
    expect(findIn(pages, 'no such words at all')).toEqual([])
  })
})
