import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { inTurn } from './turns'

let pictures: (() => void)[] = []
const nextPicture = () => {
  const now = pictures
  pictures = []
  for (const draw of now) draw()
}
beforeEach(() => vi.stubGlobal('requestAnimationFrame', (draw: () => void) => pictures.push(draw)))
afterEach(() => vi.unstubAllGlobals())

describe('work in turn', () => {
  it('is one piece a picture, in the order in which it was asked for, each once', () => {
    const done: string[] = []
    const work = (name: string) => () => void done.push(name)
    const [a, b, c] = [work('a'), work('b'), work('c')]
    for (const w of [a, b, a, c, b]) inTurn(w)
    expect(done).toEqual([])
    nextPicture()
    expect(done).toEqual(['a'])
    inTurn(a) // asked for anew: after those that wait
    for (let n = 0; n < 5; n++) nextPicture()
    expect(done).toEqual(['a', 'b', 'c', 'a'])
    expect(pictures).toHaveLength(0)
    inTurn(b)
    nextPicture()
    expect(done.at(-1)).toBe('b')
    nextPicture()
  })
})
