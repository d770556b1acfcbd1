import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { inTurn } from './turns'

let pictures: (() => void)[] = []
const nextPicture = () => {
  const now = pictures
  pictures = []
  for (const draw of now) draw()
}
beforeEach(() => vi.stubGlobal('requestAnimationFrame', (draw: () => void) => pictures.push(draw)))
afterEach(() => {
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

describe('work in turn', () => {
  /** Work that takes so many milliseconds, by a clock that nothing else moves. */
  function workshop() {
    const done: string[] = []
    let now = 0
    vi.spyOn(performance, 'now').mockImplementation(() => now)
    const work = (name: string, takes: number) => () => {
      now += takes
      done.push(name)
    }
    return { done, work }
  }
  it('is done in the order in which it was asked for, each once, until enough is done for one picture', () => {
    const { done, work } = workshop()
    const [a, b, c, d] = [work('a', 4), work('b', 4), work('c', 1), work('d', 1)]
    for (const w of [a, b, a, c, b, d]) inTurn(w)
    expect(done).toEqual([])
    nextPicture()
    expect(done).toEqual(['a', 'b']) // 8 ms
    inTurn(a) // asked for anew: after those that wait
    nextPicture()
    expect(done).toEqual(['a', 'b', 'c', 'd', 'a'])
    expect(pictures).toHaveLength(0)
  })
  it('long work has a picture to itself; what work asks for comes with the next picture', () => {
    const { done, work } = workshop()
    const last = work('last', 1)
    inTurn(work('long', 40))
    inTurn(() => inTurn(last))
    nextPicture()
    expect(done).toEqual(['long'])
    nextPicture()
    expect(done).toEqual(['long'])
    nextPicture()
    expect(done).toEqual(['long', 'last'])
    expect(pictures).toHaveLength(0)
  })
  it('that fails holds nothing else up', () => {
    const { done, work } = workshop()
    inTurn(() => {
      throw new Error('broken')
    })
    inTurn(work('other', 1))
    expect(nextPicture).toThrow('broken')
    nextPicture()
    expect(done).toEqual(['other'])
  })
})
