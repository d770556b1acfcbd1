import { describe, expect, it } from 'vitest'
import type { EditsAnswer } from '~~/core/contract'
import {
  applyEdit, shown, type Change, type DeliveryOptions, type Edit, type Mirror, type Pending,
} from '~~/core/documents'
import { message } from '~~/core/words'
import { AnswerRefusal } from './api'
import { createEditor, refusalTold } from './editor'

const words = (text: string) => message('words', { text })

const settings = (device: string) => `settings/${device}`
const wish = (device: string, path: string, value: unknown) => ({ document: settings(device), path, new: value })

/** A page with its editor, and a server whose answers wait until they are let go. */
function page() {
  let mirror: Mirror = { number: 0, documents: { [settings('a')]: {}, [settings('b')]: {} } }
  let pending: readonly Pending[] = []
  const asked: { edits: Edit[], go: () => void, fail: (error: Error) => void }[] = []
  const refused: unknown[] = []
  const answer = (edits: Edit[]): EditsAnswer => {
    const changes = edits.map((e, k): Change => ({
      ...e, number: mirror.number + k + 1, gesture: null, who: 'Ann', person: 'ann', origin: 'edit', at: '', live: true,
    }))
    return { number: mirror.number + edits.length, changes, sent: [], why: null }
  }
  const editor = createEditor({
    mirror: () => mirror,
    show: (next) => {
      pending = next
    },
    send: ({ edits }: { edits: Edit[] } & DeliveryOptions) => new Promise((resolve, reject) => {
      asked.push({ edits, go: () => resolve(answer(edits)), fail: reject })
    }),
    known: async (number, changes) => {
      mirror = { number, documents: changes.reduce(applyEdit, mirror.documents) }
    },
    refused: error => refused.push(error),
    told: () => {},
  })
  const value = (device: string, path: string) =>
    (shown(mirror.documents, pending)[settings(device)] as Record<string, unknown>)[path]
  return { editor, asked, refused, value, mirror: () => mirror, settle: () => new Promise(done => setTimeout(done)) }
}

describe('edits on their way', () => {
  it('are shown at once, and of those of one place that wait only the newest is sent', async () => {
    const { editor, asked, value, settle } = page()
    const made = [-1, -2, -3].map(v => editor.make([wish('a', '/gain', v)], {}))
    expect(value('a', '/gain')).toBe(-3)
    expect(asked.map(a => a.edits[0]!.new)).toEqual([-1])
    asked[0]!.go()
    await settle()
    expect(asked.map(a => [a.edits[0]!.old, a.edits[0]!.new])).toEqual([[undefined, -1], [-1, -3]])
    expect(value('a', '/gain')).toBe(-3) // never back to −1 in between
    asked[1]!.go()
    expect(await Promise.all(made)).toEqual([true, true, true])
    expect(value('a', '/gain')).toBe(-3)
  })
  it('of one device do not wait for another’s', async () => {
    const { editor, asked } = page()
    void editor.make([wish('a', '/gain', -1)], {})
    void editor.make([wish('b', '/gain', -2)], {})
    void editor.make([wish('a', '/delay', 0.01)], {})
    expect(asked.map(a => a.edits[0]!.document)).toEqual([settings('a'), settings('b')])
  })
  it('that are refused are told and no longer shown; those behind them are sent against what stands', async () => {
    const { editor, asked, refused, value, settle } = page()
    const first = editor.make([wish('a', '/gain', 99)], {})
    const second = editor.make([wish('a', '/delay', 0.01)], {})
    asked[0]!.fail(new AnswerRefusal(words('Out of range'), 422, null))
    expect(await first).toBe(false)
    expect([value('a', '/gain'), refused.length]).toEqual([undefined, 1])
    await settle()
    asked[1]!.go()
    expect(await second).toBe(true)
    expect(value('a', '/delay')).toBe(0.01)
  })
  it('that change nothing are not sent, and are kept all the same', async () => {
    const { editor, asked } = page()
    expect(await editor.make([wish('a', '/gain', undefined)], {})).toBe(true)
    expect(await editor.make([], {})).toBe(true)
    expect(asked).toEqual([])
  })
  it('a newer value that stands in the way is said in its favour', () => {
    const now = { document: 'settings/a', path: '/gain' }
    const overtaken = new AnswerRefusal(words('Output 1 gain was changed meanwhile.'), 409, now)
    expect(refusalTold(overtaken)).toEqual({
      kind: 'warn', told: expect.saying('set yours again if you still want it'),
    })
    const refused = new AnswerRefusal(words('Out of range'), 422, null)
    expect(refusalTold(refused)).toEqual({ kind: 'error', told: words('Out of range') })
  })
})
