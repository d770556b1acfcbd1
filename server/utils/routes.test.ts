import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { openApi, operations } from '../../core/contract'

const folder = join(import.meta.dirname, '../api')
/** Method and path of every handler, as they are read off the files' names. */
const handlers = readdirSync(folder, { recursive: true, encoding: 'utf8' })
  .filter(file => file.endsWith('.ts'))
  .map((file) => {
    const [, path, method] = /^(.*?)(?:\/index)?\.(get|post|put|patch|delete)\.ts$/.exec(file)!
    return `${method} /api/${path!.replace(/\[(\w+)\]/g, '{$1}')}`
  })

describe('the interface over HTTP', () => {
  it('every handler is described, and nothing is described that is not there', () => {
    const described = Object.values(operations).map(o => `${o.method} ${o.path}`)
    expect(described.sort()).toEqual(handlers.sort())
  })
  it('is described with the schemas of its bodies and its answers', () => {
    const { paths } = openApi('1.0.0') as { paths: Record<string, Record<string, object>> }
    const changes = JSON.stringify(paths['/api/sites/{site}/changes']!.post)
    const words = ['gesture', 'lease', 'edits', 'number', 'changes', 'sent']
    for (const word of words) expect(changes).toContain(`"${word}"`)
  })
})
